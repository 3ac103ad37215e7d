import { LineIndex } from '../text/span';
import { type Diagnostic, diagnostic } from './diagnostics';
import { commands, tests as knownTests } from './language/table';
import { TOKEN, type TokenKind, type TokenList, tokenize } from './tokens';
import type { Argument, Block, CommandNode, Comment, Script, Statement, StringArgument, TestNode } from './tree';

export interface Parsed {
  readonly script: Script;
  /** In the order of the text. Empty exactly when the script has no `unreadable` node. */
  readonly diagnostics: readonly Diagnostic[];
}

/** Deeper nesting is refused rather than run into the end of the stack; RFC 5228 asks for 15 at least. */
const NESTING_LIMIT = 64;
/** How often the text after an unclosed block is read anew. */
const RESTART_LIMIT = 50;

/**
 * A syntax fault that ends the statement at hand; `#statement` turns it into an unreadable node. It is no `Error`: taking
 * down the stack a million times is what a megabyte of braces would cost.
 */
class Fault {
  constructor(
    readonly fault: Diagnostic | null,
    /** The token at which reading can go on, when that is known better than by looking for the end of the statement. */
    readonly resumeAt: number | null = null,
  ) {}
}

/**
 * Reads a script by the generic grammar of RFC 5228 section 8.2. Never throws: what cannot be read becomes an
 * `unreadable` node with a diagnostic, and reading goes on behind it.
 */
export function parse(source: string): Parsed {
  return new Parser(source).run();
}

/** Shared by all nodes without comments, arguments or tests, since most lack some of them. */
const NONE: readonly never[] = [];

class Parser {
  readonly #tokens: TokenList;
  #diagnostics: Diagnostic[];
  /** Made only when lines are asked for. */
  #lines: LineIndex | null = null;
  /** Index of the next token. */
  #at = 0;
  #depth = 0;
  #restarts = 0;
  /** Index of the next comment that no node has taken. */
  #nextComment = 0;
  /** Whether the tests read last stood in parentheses. */
  #listed = false;
  /**
   * The members read so far of all lists that are still open, the innermost last. A list made by pushing to it would keep
   * room for seventeen members, and most lists of a script have one or two.
   */
  readonly #open: unknown[] = [];
  /** How many of `#open` count; what stands behind them is left over. */
  #held = 0;

  constructor(readonly source: string) {
    const { tokens, diagnostics } = tokenize(source);
    this.#tokens = tokens;
    this.#diagnostics = [...diagnostics];
  }

  run(): Parsed {
    while (this.#kind() !== TOKEN.end) this.#hold(this.#statement());
    const script: Script = {
      kind: 'script',
      source: this.source,
      commands: this.#members<Statement>(0),
      trailing: this.#takeComments(),
    };
    return { script, diagnostics: this.#diagnostics.sort((a, b) => a.span.start - b.span.start) };
  }

  #statement(): Statement {
    const leading = this.#takeComments();
    const first = this.#at;
    const depth = this.#depth;
    const open = this.#held;
    try {
      return this.#command(leading);
    } catch (error) {
      if (!(error instanceof Fault)) throw error;
      if (error.fault) this.#diagnostics.push(error.fault);
      this.#depth = depth;
      this.#held = open;
      const end = error.resumeAt === null ? this.#skipStatement(first) : this.#resume(error.resumeAt);
      return { kind: 'unreadable', leading, start: this.#tokens.start(first), end };
    }
  }

  #command(leading: readonly Comment[]): CommandNode {
    const head = this.#at;
    const tokens = this.#tokens;
    if (this.#kind() === TOKEN['}'] && this.#depth === 0) {
      this.#advance();
      throw new Fault(diagnostic('stray-brace', tokens.span(head)), this.#at);
    }
    if (this.#kind() !== TOKEN.identifier) throw this.#expected('a command');
    this.#advance();
    const name = tokens.name(head);
    const start = tokens.start(head);
    const args = this.#arguments();
    const tests = this.#tests(head);
    const listed = this.#listed;
    const inner = this.#takeComments();
    if (this.#kind() === TOKEN['{']) {
      const block = this.#block();
      return { kind: 'command', name, args, tests, listed, block, leading, inner, start, end: block.end };
    }
    if (this.#kind() === TOKEN[';']) {
      const end = tokens.end(this.#advance());
      return { kind: 'command', name, args, tests, listed, block: null, leading, inner, start, end };
    }
    throw this.#unended(head, tests.length > 0 ? '{ or ;' : '; or {');
  }

  /**
   * keep
   * fileinto "x";
   * ^ a new line that starts with a word most likely starts the next command: give up only what stands before it
   */
  #unended(head: number, expected: string): Fault {
    const fault = this.#expected(expected);
    const next = this.#tokens.start(this.#at);
    const onNewLine = this.#kind() === TOKEN.identifier && this.#lineIndex().lineStart(next) > this.#tokens.start(head);
    if (!onNewLine || !fault.fault) return fault;
    // What is missing is missing where the statement ends, not in what follows.
    const end = this.#lastEnd();
    return new Fault({ ...fault.fault, span: { start: end, end } }, this.#at);
  }

  #block(): Block {
    const open = this.#advance();
    this.#enter(open);
    const from = this.#held;
    for (;;) {
      const kind = this.#kind();
      if (kind === TOKEN['}']) break;
      if (kind === TOKEN.end) throw this.#unclosed(open, this.#members(from));
      this.#hold(this.#statement());
    }
    const statements = this.#members<Statement>(from);
    const trailing = this.#takeComments();
    const close = this.#advance();
    this.#depth--;
    const start = this.#tokens.start(open);
    const end = this.#tokens.end(close);
    return { kind: 'block', commands: statements, trailing, start, end };
  }

  /** A missing brace swallows all that follows; what is not indented deeper than its opening line is given back. */
  #unclosed(open: number, statements: readonly Statement[]): Fault {
    const openSpan = this.#tokens.span(open);
    const fault = diagnostic('unclosed-block', openSpan);
    if (this.#restarts++ >= RESTART_LIMIT) return new Fault(fault);
    const indent = this.#indent(openSpan.start);
    const openLine = this.#lineIndex().lineStart(openSpan.start);
    for (const { start } of statements) {
      const onNewLine = this.#lineIndex().lineStart(start) > openLine;
      if (!onNewLine || !this.#startsLine(start) || this.#indent(start) > indent) continue;
      // What follows is read again, and its faults are found again; those of the lexer are not.
      this.#diagnostics = this.#diagnostics.filter((known) => known.span.start < start || LEXICAL.test(known.code));
      return new Fault(fault, this.#tokenAt(start));
    }
    return new Fault(fault);
  }

  #tokenAt(offset: number): number {
    let low = 0;
    let high = this.#tokens.count - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#tokens.start(middle) < offset) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  #lineIndex(): LineIndex {
    this.#lines ??= new LineIndex(this.source);
    return this.#lines;
  }

  #indent(offset: number): number {
    let at = this.#lineIndex().lineStart(offset);
    const start = at;
    while (this.source[at] === ' ' || this.source[at] === '\t') at++;
    return at - start;
  }

  #startsLine(offset: number): boolean {
    let at = offset - 1;
    while (this.source[at] === ' ' || this.source[at] === '\t') at--;
    return at < 0 || this.source[at] === '\n';
  }

  #arguments(): readonly Argument[] {
    const from = this.#held;
    const tokens = this.#tokens;
    for (;;) {
      switch (this.#kind()) {
        case TOKEN.quoted:
        case TOKEN.escaped:
        case TOKEN.multiline:
          this.#hold(this.#string());
          break;
        case TOKEN.number: {
          const token = this.#advance();
          this.#hold({ kind: 'number', ...tokens.number(token), start: tokens.start(token), end: tokens.end(token) });
          break;
        }
        case TOKEN.tag: {
          const token = this.#advance();
          this.#hold({ kind: 'tag', name: tokens.name(token), start: tokens.start(token), end: tokens.end(token) });
          break;
        }
        case TOKEN['[']:
          this.#hold(this.#stringList());
          break;
        default:
          return this.#members(from);
      }
    }
  }

  #string(): StringArgument {
    const kind = this.#kind();
    if (kind < TOKEN.quoted || kind > TOKEN.multiline) throw this.#expected('a string');
    const token = this.#advance();
    const form = kind === TOKEN.multiline ? 'multiline' : 'quoted';
    const tokens = this.#tokens;
    return { kind: 'string', value: tokens.value(token), form, start: tokens.start(token), end: tokens.end(token) };
  }

  #stringList(): Argument {
    const open = this.#advance();
    const from = this.#held;
    if (this.#kind() !== TOKEN[']']) {
      this.#hold(this.#string());
      while (this.#kind() === TOKEN[',']) {
        this.#advance();
        this.#hold(this.#string());
      }
    }
    if (this.#kind() !== TOKEN[']']) throw this.#expected(', or ]');
    const close = this.#advance();
    const items = this.#members<StringArgument>(from);
    return { kind: 'string-list', items, start: this.#tokens.start(open), end: this.#tokens.end(close) };
  }

  /** Leaves in `#listed` whether they stand in parentheses. */
  #tests(head: number | null): readonly TestNode[] {
    const kind = this.#kind();
    this.#listed = false;
    if (kind === TOKEN.identifier && !this.#startsNewCommand(head)) {
      const only = [this.#test()];
      this.#listed = false;
      return only;
    }
    if (kind !== TOKEN['(']) return NONE;
    this.#enter(this.#advance());
    const from = this.#held;
    this.#hold(this.#test());
    while (this.#kind() === TOKEN[',']) {
      this.#advance();
      this.#hold(this.#test());
    }
    if (this.#kind() !== TOKEN[')']) throw this.#expected(', or )');
    this.#advance();
    this.#depth--;
    this.#listed = true;
    return this.#members(from);
  }

  /**
   * Whether a semicolon or brace was forgotten before the word at hand, which then is no test: it names a command and
   * stands on a line of its own, or behind something complete.
   *
   * keep            if true keep;
   * fileinto "x";           ^
   * ^
   */
  #startsNewCommand(head: number | null): boolean {
    // Nearly every test stands right behind its command, which is told without reading its name.
    if (this.#at - 1 === head && !this.#startsLine(this.#tokens.start(this.#at))) return false;
    const name = this.#tokens.name(this.#at);
    return !knownTests.has(name) && commands.has(name);
  }

  #test(): TestNode {
    if (this.#kind() !== TOKEN.identifier) throw this.#expected('a test');
    const head = this.#advance();
    this.#enter(head);
    const args = this.#arguments();
    const tests = this.#tests(null);
    const listed = this.#listed;
    this.#depth--;
    const start = this.#tokens.start(head);
    const end = this.#lastEnd();
    return { kind: 'test', name: this.#tokens.name(head), args, tests, listed, start, end };
  }

  /** What has been read since `from` as a list of its own. */
  #members<Member>(from: number): readonly Member[] {
    const count = this.#held - from;
    if (count === 0) return NONE;
    this.#held = from;
    const open = this.#open as Member[];
    // Most lists have one or two members; made this way they take a third of the time.
    if (count === 1) return [open[from] as Member];
    if (count === 2) return [open[from] as Member, open[from + 1] as Member];
    return open.slice(from, from + count);
  }

  #hold(member: unknown): void {
    this.#open[this.#held++] = member;
  }

  #enter(token: number): void {
    if (++this.#depth > NESTING_LIMIT) {
      throw new Fault(diagnostic('too-deep', this.#tokens.span(token), { limit: String(NESTING_LIMIT) }));
    }
  }

  #expected(expected: string): Fault {
    // The lexer has already said what is wrong with an invalid token.
    if (this.#kind() === TOKEN.invalid) return new Fault(null);
    const found = this.#describe();
    return new Fault(diagnostic('expected', this.#tokens.span(this.#at), { expected, found }));
  }

  #describe(): string {
    if (this.#kind() === TOKEN.end) return 'the end of the script';
    const text = this.#tokens.text(this.#at);
    return text.length > 30 ? `${Array.from(text.slice(0, 60)).slice(0, 28).join('')}...` : text;
  }

  /**
   * Moves behind the statement that begins at token `first`: to its semicolon, to the brace that closes its block,
   * or before the brace that closes the block it stands in. Returns the offset where the unreadable part ends.
   */
  #skipStatement(first: number): number {
    let braces = 0;
    const failed = this.#at;
    this.#at = first;
    for (;;) {
      const kind = this.#kind();
      if (kind === TOKEN.end) break;
      if (kind === TOKEN['}'] && braces === 0 && this.#depth > 0) break;
      if (kind === TOKEN['{']) braces++;
      if (kind === TOKEN['}']) braces--;
      const ended = (kind === TOKEN[';'] || kind === TOKEN['}']) && braces <= 0;
      const last = this.#at;
      this.#advance();
      if (ended && last >= failed) break;
    }
    if (this.#at === first && this.#kind() !== TOKEN.end) this.#advance();
    return this.#resume(this.#at);
  }

  /** Goes on at a token; the comments directly before it belong to what follows. Returns the offset where that begins. */
  #resume(index: number): number {
    this.#at = index;
    const tokens = this.#tokens;
    const { length } = tokens.comments;
    while (this.#nextComment > 0 && tokens.follower(this.#nextComment - 1) >= index) this.#nextComment--;
    while (this.#nextComment < length && tokens.follower(this.#nextComment) < index) this.#nextComment++;
    return this.#lastEnd();
  }

  #kind(): TokenKind {
    return this.#tokens.kind(this.#at);
  }

  /** Goes on to the next token; returns the one that was at hand. */
  #advance(): number {
    return this.#kind() === TOKEN.end ? this.#at : this.#at++;
  }

  /** The comments before the token at hand that no node has taken. */
  #takeComments(): readonly Comment[] {
    const tokens = this.#tokens;
    const { comments } = tokens;
    const from = this.#nextComment;
    let next = from;
    while (next < comments.length && tokens.follower(next) <= this.#at) next++;
    if (next === from) return NONE;
    this.#nextComment = next;
    return next === from + 1 ? [comments[from] as Comment] : comments.slice(from, next);
  }

  /** Where the token before the one at hand ends. */
  #lastEnd(): number {
    return this.#at === 0 ? 0 : this.#tokens.end(this.#at - 1);
  }
}

/** Faults that the lexer finds, once. */
const LEXICAL =
  /^(unclosed-(string|text|comment)|text-same-line|unexpected-character|nul-character|bad-number|number-too-large)$/;
