import { elementAt } from '../text/lookup';
import { LineIndex, type Span } from '../text/span';
import { type Diagnostic, diagnostic } from './diagnostics';
import { commands, tests as knownTests } from './language/table';
import { Lexer, TOKEN, type TokenKind, type TokenPlace } from './tokens';
import type { Argument, Block, CommandNode, Comment, Script, Statement, StringArgument, TestNode } from './tree';

export interface Parsed {
  readonly script: Script;
  /** In the order of the text. Empty exactly when the script has no `unreadable` node. */
  readonly diagnostics: readonly Diagnostic[];
}

/** Deeper nesting is rejected, so that the stack cannot overflow; RFC 5228 requires at least 15. */
const NESTING_LIMIT = 64;
/** How often the text after an unclosed block is parsed again. */
const RESTART_LIMIT = 50;

/**
 * A syntax fault that ends the current statement; `#statement` turns it into an unreadable node. Not an `Error`, since
 * capturing the stack a million times would make a megabyte of braces slow.
 */
class Fault {
  constructor(
    readonly fault: Diagnostic | null,
    /** The token at which parsing can resume, if known better than the end of the statement. */
    readonly resumeAt: TokenPlace | null = null,
  ) {}
}

/**
 * Parses a script by the generic grammar of RFC 5228 section 8.2. Never throws: unparsable text becomes an `unreadable`
 * node with a diagnostic, and parsing resumes after it.
 */
export function parse(source: string): Parsed {
  return new Parser(source).run();
}

/** Shared by all nodes without comments, arguments or tests, since most lack some of them. */
const NONE: readonly never[] = [];

class Parser {
  /** The current token has been read but not consumed. */
  readonly #lexer: Lexer;
  /** The lexer reports its own diagnostics. */
  #diagnostics: Diagnostic[] = [];
  /** Created only when lines are requested. */
  #lines: LineIndex | null = null;
  #depth = 0;
  #restarts = 0;
  /** Index of the next comment not attached to a node. */
  #nextComment = 0;
  /** Whether the last tests were in parentheses. */
  #listed = false;
  /**
   * The members of all open lists, innermost last. Pushing to separate arrays would reserve room for seventeen members,
   * and most lists of a script have one or two.
   */
  readonly #open: unknown[] = [];
  /** How many members of `#open` count; later ones are stale. */
  #held = 0;

  constructor(readonly source: string) {
    this.#lexer = new Lexer(source);
    this.#lexer.next();
  }

  run(): Parsed {
    while (this.#kind() !== TOKEN.end) this.#hold(this.#statement());
    const script: Script = {
      kind: 'script',
      source: this.source,
      commands: this.#members<Statement>(0),
      trailing: this.#takeComments(),
    };
    const diagnostics = [...this.#lexer.diagnostics, ...this.#diagnostics];
    return { script, diagnostics: diagnostics.sort((a, b) => a.span.start - b.span.start) };
  }

  #statement(): Statement {
    const leading = this.#takeComments();
    const first = this.#lexer.place;
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
      return { kind: 'unreadable', leading, start: first.start, end };
    }
  }

  #command(leading: readonly Comment[]): CommandNode {
    const lexer = this.#lexer;
    if (this.#kind() === TOKEN['}'] && this.#depth === 0) {
      const fault = diagnostic('stray-brace', lexer.span);
      lexer.next();
      throw new Fault(fault, lexer.place);
    }
    if (this.#kind() !== TOKEN.identifier) throw this.#expected('a command');
    const { name, start, end: nameEnd } = lexer;
    lexer.next();
    const args = this.#arguments();
    const tests = this.#tests(nameEnd);
    const listed = this.#listed;
    const inner = this.#takeComments();
    if (this.#kind() === TOKEN['{']) {
      const block = this.#block();
      return { kind: 'command', name, args, tests, listed, block, leading, inner, start, end: block.end };
    }
    if (this.#kind() === TOKEN[';']) {
      const { end } = lexer;
      lexer.next();
      return { kind: 'command', name, args, tests, listed, block: null, leading, inner, start, end };
    }
    throw this.#unended(start, tests.length > 0 ? '{ or ;' : '; or {');
  }

  /**
   * keep
   * fileinto "x";
   * ^ a new line that starts with a word most likely starts the next command: give up only what stands before it
   */
  #unended(start: number, expected: string): Fault {
    const fault = this.#expected(expected);
    const lexer = this.#lexer;
    const onNewLine = lexer.kind === TOKEN.identifier && this.#lineIndex().lineStart(lexer.start) > start;
    if (!onNewLine || !fault.fault) return fault;
    // A missing token is reported where the statement ends, not at the token that follows.
    const end = lexer.before;
    return new Fault({ ...fault.fault, span: { start: end, end } }, lexer.place);
  }

  #block(): Block {
    const lexer = this.#lexer;
    const open = lexer.span;
    this.#enter();
    lexer.next();
    const from = this.#held;
    for (;;) {
      const kind = this.#kind();
      if (kind === TOKEN['}']) break;
      if (kind === TOKEN.end) throw this.#unclosed(open, this.#members(from));
      this.#hold(this.#statement());
    }
    const statements = this.#members<Statement>(from);
    const trailing = this.#takeComments();
    const { end } = lexer;
    lexer.next();
    this.#depth--;
    return { kind: 'block', commands: statements, trailing, start: open.start, end };
  }

  /**
   * A missing brace swallows everything that follows; statements not indented deeper than the opening line are returned
   * to the enclosing block.
   */
  #unclosed(open: Span, statements: readonly Statement[]): Fault {
    const fault = diagnostic('unclosed-block', open);
    if (this.#restarts++ >= RESTART_LIMIT) return new Fault(fault);
    const indent = this.#indent(open.start);
    const openLine = this.#lineIndex().lineStart(open.start);
    let before = open.end;
    for (const { start, end } of statements) {
      const onNewLine = this.#lineIndex().lineStart(start) > openLine;
      if (onNewLine && this.#startsLine(start) && this.#indent(start) <= indent) {
        // The returned text is parsed again, and its faults are found again.
        this.#diagnostics = this.#diagnostics.filter((known) => known.span.start < start);
        return new Fault(fault, { start, before });
      }
      before = end;
    }
    return new Fault(fault);
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
    const lexer = this.#lexer;
    for (;;) {
      switch (this.#kind()) {
        case TOKEN.quoted:
        case TOKEN.escaped:
        case TOKEN.multiline:
          this.#hold(this.#string());
          break;
        case TOKEN.number: {
          this.#hold({ kind: 'number', ...lexer.number(), start: lexer.start, end: lexer.end });
          lexer.next();
          break;
        }
        case TOKEN.tag: {
          this.#hold({ kind: 'tag', name: lexer.name, start: lexer.start, end: lexer.end });
          lexer.next();
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
    const lexer = this.#lexer;
    const form = kind === TOKEN.multiline ? 'multiline' : 'quoted';
    const read: StringArgument = { kind: 'string', value: lexer.value(), form, start: lexer.start, end: lexer.end };
    lexer.next();
    return read;
  }

  #stringList(): Argument {
    const lexer = this.#lexer;
    const { start } = lexer;
    lexer.next();
    const from = this.#held;
    if (this.#kind() === TOKEN[']']) {
      // The grammar has no empty list (RFC 5228 section 8.2); the meaning of one is clear.
      this.#diagnostics.push(diagnostic('empty-list', { start, end: lexer.end }));
    } else {
      this.#hold(this.#string());
      while (this.#kind() === TOKEN[',']) {
        lexer.next();
        this.#hold(this.#string());
      }
    }
    if (this.#kind() !== TOKEN[']']) throw this.#expected(', or ]');
    const { end } = lexer;
    lexer.next();
    return { kind: 'string-list', items: this.#members<StringArgument>(from), start, end };
  }

  /**
   * The tests after the arguments of a command, whose name ends at `nameEnd`, or of a test (null). Sets `#listed` to
   * whether the tests are in parentheses.
   */
  #tests(nameEnd: number | null): readonly TestNode[] {
    const kind = this.#kind();
    this.#listed = false;
    if (kind === TOKEN.identifier && !this.#startsNewCommand(nameEnd)) {
      const only = [this.#test()];
      this.#listed = false;
      return only;
    }
    if (kind !== TOKEN['(']) return NONE;
    const lexer = this.#lexer;
    lexer.next();
    const from = this.#held;
    this.#hold(this.#test());
    while (this.#kind() === TOKEN[',']) {
      lexer.next();
      this.#hold(this.#test());
    }
    if (this.#kind() !== TOKEN[')']) throw this.#expected(', or )');
    lexer.next();
    this.#listed = true;
    return this.#members(from);
  }

  /**
   * Whether a semicolon or brace was forgotten before the current word, which then is no test: it names a command and
   * stands on a line of its own, or behind something complete.
   *
   * keep            if true keep;
   * fileinto "x";           ^
   * ^
   */
  #startsNewCommand(nameEnd: number | null): boolean {
    const { before, start, name } = this.#lexer;
    // Nearly every test directly follows its command, which is decided without looking the name up.
    if (before === nameEnd && !this.#startsLine(start)) return false;
    return !knownTests.has(name) && commands.has(name);
  }

  #test(): TestNode {
    if (this.#kind() !== TOKEN.identifier) throw this.#expected('a test');
    const { name, start } = this.#lexer;
    this.#enter();
    this.#lexer.next();
    const args = this.#arguments();
    const tests = this.#tests(null);
    const listed = this.#listed;
    this.#depth--;
    return { kind: 'test', name, args, tests, listed, start, end: this.#lexer.before };
  }

  /** The members read since `from`, as a list of their own. */
  #members<Member>(from: number): readonly Member[] {
    const count = this.#held - from;
    if (count === 0) return NONE;
    this.#held = from;
    // The members since `from` belong to this list.
    const open = this.#open as Member[];
    // Most lists have one or two members; made this way they take a third of the time.
    if (count === 1) return [elementAt(open, from)];
    if (count === 2) return [elementAt(open, from), elementAt(open, from + 1)];
    return open.slice(from, from + count);
  }

  #hold(member: unknown): void {
    this.#open[this.#held++] = member;
  }

  /** Goes one level deeper; throws a fault at the nesting limit. */
  #enter(): void {
    if (++this.#depth > NESTING_LIMIT) {
      const fault = diagnostic('too-deep', this.#lexer.span, { limit: String(NESTING_LIMIT) });
      this.#lexer.next();
      throw new Fault(fault);
    }
  }

  #expected(expected: string): Fault {
    // The lexer has already reported an invalid token.
    if (this.#kind() === TOKEN.invalid) return new Fault(null);
    const found = this.#describe();
    return new Fault(diagnostic('expected', this.#lexer.span, { expected, found }));
  }

  #describe(): string {
    if (this.#kind() === TOKEN.end) return 'the end of the script';
    const { text } = this.#lexer;
    return text.length > 30 ? `${Array.from(text.slice(0, 60)).slice(0, 28).join('')}...` : text;
  }

  /**
   * Skips the statement that begins at `first`: to its semicolon, to the brace that closes its block, or before the
   * brace that closes the enclosing block. Returns the offset where the unreadable part ends.
   */
  #skipStatement(first: TokenPlace): number {
    const lexer = this.#lexer;
    let braces = 0;
    const failed = lexer.start;
    lexer.goTo(first);
    for (;;) {
      const kind = this.#kind();
      if (kind === TOKEN.end) break;
      if (kind === TOKEN['}'] && braces === 0 && this.#depth > 0) break;
      if (kind === TOKEN['{']) braces++;
      if (kind === TOKEN['}']) braces--;
      const ended = (kind === TOKEN[';'] || kind === TOKEN['}']) && braces <= 0;
      const { start } = lexer;
      lexer.next();
      if (ended && start >= failed) break;
    }
    if (lexer.start === first.start) lexer.next();
    return this.#resume(lexer.place);
  }

  /**
   * Resumes at a token; comments directly before the token belong to the next statement. Returns the offset where that
   * statement begins.
   */
  #resume(place: TokenPlace): number {
    const lexer = this.#lexer;
    if (lexer.start !== place.start) lexer.goTo(place);
    const { comments, followers } = lexer;
    const follower = (comment: number) => elementAt(followers, comment);
    while (this.#nextComment > 0 && follower(this.#nextComment - 1) >= lexer.start) this.#nextComment--;
    while (this.#nextComment < comments.length && follower(this.#nextComment) < lexer.start) this.#nextComment++;
    return lexer.before;
  }

  #kind(): TokenKind {
    return this.#lexer.kind;
  }

  /** The comments before the current token that no node has taken. */
  #takeComments(): readonly Comment[] {
    const { comments, followers, start } = this.#lexer;
    const from = this.#nextComment;
    let next = from;
    while (next < comments.length && elementAt(followers, next) <= start) next++;
    if (next === from) return NONE;
    this.#nextComment = next;
    return next === from + 1 ? [elementAt(comments, from)] : comments.slice(from, next);
  }
}
