import { check } from '../sieve/check';
import { type Diagnostic, wordsOf } from '../sieve/diagnostics';
import { capabilities } from '../sieve/language/table';
import { parse } from '../sieve/parse';
import { quote } from '../sieve/quote';
import { decodeEncoded, requires, stringsIn } from '../sieve/strings';
import type { Block, CommandNode, Comment, Script, Statement, TestNode } from '../sieve/tree';
import { elementAt } from '../text/lookup';
import type { Span } from '../text/span';
import { noteOf, tidyNote } from './marks';
import { negationOf, readAction, readTest } from './nodes';
import type { Action, Chain, ChainEntry, Ending, Link, TestTree } from './rule';
import { type Guard, groupsOf, ruleable, variableUses } from './statements';

export interface ReadScript {
  readonly chain: Chain;
  /** The source span of each entry, in order. */
  readonly places: readonly Span[];
  readonly script: Script;
  readonly diagnostics: readonly Diagnostic[];
}

/**
 * Reads a script into a chain. What does not fit a rule, or could not be parsed, becomes a script block, word for word.
 */
export function chainFromSieve(source: string): ReadScript {
  const parsed = parse(source);
  const diagnostics = [...parsed.diagnostics, ...check(parsed.script)].sort((a, b) => a.span.start - b.span.start);
  const reader = new ChainReader(parsed.script, diagnostics);
  return { chain: reader.run(), places: reader.places, script: parsed.script, diagnostics };
}

/** A rule without name and id, which are assigned when its position in the chain is known. */
interface Draft {
  readonly guard: Guard;
  readonly actions: readonly Action[];
  readonly ending: Ending;
  readonly link: Link;
  readonly comments: Comments;
  readonly place: Span;
}

interface Comments {
  readonly name: string | null;
  readonly note: string;
}

class ChainReader {
  readonly #entries: ChainEntry[] = [];
  readonly places: Span[] = [];
  readonly #encoded: boolean;
  /** Unknown required capabilities: kept with what was not understood. */
  readonly #unknown: string[] = [];
  #unknownKept = false;
  /** Comments waiting for the next rule: those of require, and those followed by blank lines. */
  #stray: string[] = [];

  constructor(
    readonly script: Script,
    readonly diagnostics: readonly Diagnostic[],
  ) {
    this.#encoded = requires(script, 'encoded-character');
  }

  run(): Chain {
    const groups = groupsOf(decodeEncoded(this.script).commands);
    const uses = requires(this.script, 'variables') ? variableUses(groups) : null;
    for (const [at, group] of groups.entries()) {
      const reason = uses?.reasons[at] ?? null;
      if (reason === null) this.#group(group, uses?.plain(group));
      else this.#block(group, this.#maybeFault(group) ?? reason, this.#maybeFault(group) === null, ['variables']);
    }
    if (this.#unknown.length > 0 && !this.#unknownKept) {
      this.#stray.push(`these required extensions are unknown: ${this.#unknown.map(quote).join(', ')}`);
    }
    const closing = [...this.#stray, ...textsOf(this.script.trailing)].join('\n');
    return { entries: this.#entries, closing };
  }

  /**
   * One command, or an `if` with all its branches; `said` is the same without references to variables that are never
   * set.
   */
  #group(group: readonly Statement[], said = group): void {
    const head = elementAt(group, 0);
    const fault = this.#maybeFault(group);
    if (head.kind === 'command' && head.name === 'require' && !fault) {
      const named = stringsIn(head.args).map(({ value }) => value);
      for (const name of named) if (!capabilities.has(name)) this.#unknown.push(name);
      this.#stray.push(...textsOf(head.leading));
      return;
    }
    if (fault) {
      this.#block(group, fault, false);
      return;
    }
    const stray = this.#stray;
    const drafts = this.#drafts(said);
    if (typeof drafts !== 'string') {
      for (const draft of drafts) this.#rule(draft);
      return;
    }
    this.#stray = stray;
    this.#block(group, drafts, true, said === group ? [] : ['variables']);
  }

  /** The first diagnostic of a group, or null. Those about `require` are ignored, since the meaning is clear anyway. */
  #maybeFault(group: readonly Statement[]): string | null {
    const head = elementAt(group, 0);
    const { start } = head;
    const end = elementAt(group, group.length - 1).end;
    for (let at = this.#firstDiagnostic(start); at < this.diagnostics.length; at++) {
      const fault = elementAt(this.diagnostics, at);
      if (fault.span.start >= end) break;
      if (!ALLOWED.test(fault.code)) return wordsOf(fault);
    }
    // A branch whose `if` could not be parsed has no meaning alone.
    const apart = head.kind === 'unreadable' || head.name === 'elsif' || head.name === 'else';
    return apart ? 'its surroundings could not be read' : null;
  }

  /** The first diagnostic at or after an offset; diagnostics are in text order. */
  #firstDiagnostic(offset: number): number {
    let low = 0;
    let high = this.diagnostics.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (elementAt(this.diagnostics, middle).span.start < offset) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** The rules of a group, or the reason why it must stay a script block. */
  #drafts(group: readonly Statement[]): readonly Draft[] | string {
    try {
      const branches = commandsOf(group);
      const head = elementAt(branches, 0);
      if (head.name !== 'if') return [this.#actionRule(head)];
      if (branches.every((branch) => isFlat(branch.block))) return this.#linkedRules(branches);
      return this.#nested(branches, [], NO_COMMENTS);
    } catch (error) {
      if (error instanceof NotARule) return error.reason;
      throw error;
    }
  }

  #actionRule(node: CommandNode): Draft {
    const { actions, ending } = this.#body([node]);
    return { guard: [], actions, ending, link: 'always', comments: this.#comments(node.leading), place: node };
  }

  /** `if` / `elsif` / `else` whose blocks contain only actions: one rule for each branch, linked by `otherwise`. */
  #linkedRules(branches: readonly CommandNode[]): Draft[] {
    const drafts = branches.map(
      (branch, index): Draft => ({
        guard: guardOf(branch),
        ...this.#body(branch.block?.commands ?? []),
        link: index === 0 ? 'always' : 'otherwise',
        comments: this.#comments(branch.leading, notes(branch.inner, bodyComments(branch.block))),
        place: branch,
      }),
    );
    const head = drafts[0]?.comments.name ?? null;
    return drafts.map((draft, index) => {
      const comments = branches[index]?.name === 'else' ? restOf(head, draft.comments) : draft.comments;
      return { ...draft, comments };
    });
  }

  /**
   * Nested branches: each run of actions becomes a rule under all surrounding conditions, and a later branch under the
   * negation of the earlier ones. Valid only while no test can change in between, so flags may not be both tested and
   * changed.
   */
  #nested(branches: readonly CommandNode[], around: Guard, inherited: Comments): Draft[] {
    if (!ruleable(branches)) throw new NotARule('it tests flags that it changes itself');
    const drafts: Draft[] = [];
    const before: TestTree[] = [];
    let head: string | null = null;
    for (const [index, branch] of branches.entries()) {
      const own = guardOf(branch);
      if (around.length + before.length > MOST_GUARDS) throw new NotARule('its branches are nested too deeply');
      const guard: Guard = [...around, ...before.map((tree) => negationOf([tree])), ...own];
      const written = this.#comments(branch.leading, notes(branch.inner, branch.block?.trailing ?? []));
      const said = index === 0 ? joinComments(written, inherited) : written;
      if (index === 0) head = said.name;
      const comments = branch.name === 'else' ? restOf(head, said) : said;
      drafts.push(...this.#guarded(branch.block?.commands ?? [], guard, comments));
      before.push(own.length === 1 ? elementAt(own, 0) : { kind: 'all', children: own });
    }
    return drafts;
  }

  #guarded(statements: readonly Statement[], guard: Guard, comments: Comments): Draft[] {
    const drafts: Draft[] = [];
    let named: Comments = comments;
    for (let at = 0; at < statements.length; ) {
      const count = isIf(statements[at]) ? branchCount(statements, at) : plainCount(statements, at);
      const part = statements.slice(at, at + count);
      if (isIf(part[0])) drafts.push(...this.#nested(commandsOf(part), guard, named));
      else {
        const body = this.#body(part);
        if (body.ending === 'stop' && at + count < statements.length) throw new NotARule('commands follow a stop');
        const note = notes(part.flatMap((statement) => statement.leading));
        const place = { start: elementAt(part, 0).start, end: elementAt(part, part.length - 1).end };
        drafts.push({ guard, ...body, link: 'always', comments: joinComments(named, { name: null, note }), place });
      }
      named = { name: comments.name && `${comments.name}, continued`, note: '' };
      at += count;
    }
    return drafts;
  }

  #body(statements: readonly Statement[]): { actions: readonly Action[]; ending: Ending } {
    const actions: Action[] = [];
    for (const [index, statement] of statements.entries()) {
      if (statement.kind === 'unreadable') throw new NotARule('it could not be read');
      if (statement.name === 'stop') {
        if (index < statements.length - 1) throw new NotARule('commands follow a stop');
        return { actions, ending: 'stop' };
      }
      const action = readAction(statement);
      if (!action) throw new NotARule(`a rule cannot express ${statement.name}`);
      actions.push(action);
    }
    return { actions, ending: 'continue' };
  }

  #rule(draft: Draft): void {
    const { comments, place } = draft;
    this.places.push({ start: place.start, end: place.end });
    const [tests, unless] = splitGuard(draft.guard);
    this.#entries.push({
      kind: 'rule',
      id: this.#nextId(),
      name: comments.name ?? this.#nextName(),
      note: comments.note,
      on: true,
      tests,
      unless,
      actions: draft.actions,
      ending: draft.ending,
      link: draft.link,
    });
  }

  #block(group: readonly Statement[], reason: string, works: boolean, needed: readonly string[] = []): void {
    const head = elementAt(group, 0);
    const last = elementAt(group, group.length - 1);
    const comments = this.#comments(head.leading);
    const text = this.script.source.slice(head.start, last.end);
    this.places.push({ start: head.start, end: last.end });
    this.#unknownKept ||= !works;
    const encoded = this.#encoded && text.includes('${');
    this.#entries.push({
      kind: 'script',
      id: this.#nextId(),
      name: comments.name ?? this.#nextName(),
      note: comments.note,
      on: true,
      text,
      reason,
      works,
      requires: works ? (encoded ? [...needed, 'encoded-character'] : needed) : this.#unknown,
    });
  }

  #nextId(): string {
    return `r${this.#entries.length + 1}`;
  }

  #nextName(): string {
    return `Rule ${this.#entries.length + 1}`;
  }

  /** The name is the comment on the line directly above; all other comments become the note. */
  #comments(leading: readonly Comment[], inner = ''): Comments {
    const all = [...leading];
    const last = all[all.length - 1];
    let name: string | null = null;
    let more = '';
    if (last && this.#directlyAbove(last) && last.text.trim() !== '') {
      // The first line of a multi-line comment is the name, the rest a note.
      const [first = '', ...others] = last.text.split(/\r?\n/).map((line) => line.replace(/^\s*\*?\s*/, '').trim());
      const lines = last.form === 'bracket' ? [first, ...others].filter((line) => line !== '') : [last.text];
      name = lines[0] ?? null;
      more = lines.slice(1).join('\n');
      if (name !== null) all.pop();
    }
    const lines = [...this.#stray, ...textsOf(all), more, inner];
    this.#stray = [];
    return { name, note: tidyNote(lines.join('\n')) };
  }

  #directlyAbove(comment: Comment): boolean {
    const { source } = this.script;
    const lineStart = source.lastIndexOf('\n', comment.start - 1) + 1;
    const alone = source.slice(lineStart, comment.start).trim() === '' || comment.form === 'bracket';
    const gap = /^[^\S\n]*\r?\n?[^\S\n]*/.exec(source.slice(comment.end))?.[0] ?? '';
    const next = source.slice(comment.end + gap.length, comment.end + gap.length + 1);
    return alone && next !== '' && next !== '\n' && next !== '\r';
  }
}

/** Most conditions around one rule; with more, rules would grow with the square of the script. */
const MOST_GUARDS = 200;

const NO_COMMENTS: Comments = { name: null, note: '' };

/** The name of an else branch without a comment, from its if. */
function restOf(head: string | null, { name, note }: Comments): Comments {
  return { name: name ?? (head && `${head}, otherwise`), note };
}

function joinComments(own: Comments, further: Comments): Comments {
  return {
    name: own.name ?? further.name,
    note: tidyNote([own.note, further.note].join('\n')),
  };
}

/** Diagnostics that do not prevent understanding a group. */
const ALLOWED = /^(missing-require|unknown-capability)$/;

/** The statements of a group as commands; unparsed text never is in a group of rules. */
const commandsOf = (group: readonly Statement[]): readonly CommandNode[] =>
  group.map((statement) => {
    if (statement.kind !== 'command') throw new NotARule('a part of it could not be read');
    return statement;
  });

/** Why something stays a script block. */
class NotARule extends Error {
  constructor(readonly reason: string) {
    super(reason);
  }
}

function branchCount(statements: readonly Statement[], at: number): number {
  if (!isIf(statements[at])) return 1;
  let count = 1;
  for (;;) {
    const next = statements[at + count];
    if (next?.kind !== 'command' || (next.name !== 'elsif' && next.name !== 'else')) return count;
    count++;
  }
}

function plainCount(statements: readonly Statement[], at: number): number {
  let count = 0;
  while (at + count < statements.length && !isIf(statements[at + count])) count++;
  return count;
}

function isIf(statement: Statement | undefined): boolean {
  return statement?.kind === 'command' && statement.name === 'if';
}

function isFlat(block: Block | null): boolean {
  return block?.commands.every((statement) => statement.kind === 'command' && statement.block === null) ?? true;
}

function guardOf(branch: CommandNode): Guard {
  const test = branch.tests[0];
  if (!test) return [];
  const tree = readTest(test);
  if (!tree) throw new NotARule(`a rule cannot express the test ${inexpressible(test)}`);
  return tree.kind === 'all' ? tree.children : [tree];
}

/** The name of the nested test that rules cannot express. */
function inexpressible(test: TestNode): string {
  const inner = test.tests.find((child) => readTest(child) === null);
  return inner ? inexpressible(inner) : test.name;
}

/** Negations among the tests of an allof become exceptions; a lone negation stays a test. */
function splitGuard(guard: Guard): [TestTree, readonly TestTree[]] {
  const positive = guard.filter((tree) => tree.kind !== 'none');
  if (positive.length === 0) {
    return [guard.length === 1 ? elementAt(guard, 0) : { kind: 'all', children: guard }, []];
  }
  const unless = guard.flatMap((tree) => (tree.kind === 'none' ? tree.children : []));
  if (positive.length === 1) return [unwrapped(elementAt(positive, 0)), unless];
  return [{ kind: 'all', children: positive }, unless];
}

/** An allof around a single test marks it as a test that would otherwise become an exception. */
function unwrapped(tree: TestTree): TestTree {
  const only = tree.kind === 'all' && tree.children.length === 1 ? tree.children[0] : undefined;
  return only ? unwrapped(only) : tree;
}

function bodyComments(block: Block | null): readonly Comment[] {
  return [...(block?.commands.flatMap((statement) => statement.leading) ?? []), ...(block?.trailing ?? [])];
}

/** The text of comments, except those that an export has generated. */
const textsOf = (comments: readonly Comment[]): string[] => comments.flatMap(({ text }) => noteOf(text) ?? []);

function notes(...groups: readonly (readonly Comment[])[]): string {
  return groups.flatMap(textsOf).join('\n');
}
