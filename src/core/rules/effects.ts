import { hasReferences, REFERENCE } from '../sieve/interpret/run';
import { type Bound, bind } from '../sieve/language/bind';
import type { Signature } from '../sieve/language/definition';
import { commands, tests } from '../sieve/language/table';
import { parse } from '../sieve/parse';
import { eachString, stringsIn } from '../sieve/strings';
import type { CommandNode, Statement, TestNode } from '../sieve/tree';
import { elementAt } from '../text/lookup';
import { actionNode, testNode } from './nodes';
import { type Action, type ChainEntry, conditionOf, type LeafTest, leavesOf, type TestTree } from './rule';

/**
 * State that commands of a script pass on: `header NAME` (edited fields, `*` for any), `variable NAME`, `match` (the
 * match variables) and `flags`.
 */
export interface Effects {
  readonly reads: ReadonlySet<string>;
  readonly writes: ReadonlySet<string>;
}

const ANY_HEADER = 'header *';
const EVERYTHING = [ANY_HEADER, 'variable *', 'match', 'flags'];
/** Fields that decide how the body is decoded (RFC 2045). */
const STRUCTURE = ['header content-type', 'header content-transfer-encoding'];

/** Whether a write may affect a read. */
export function meets(reads: ReadonlySet<string>, writes: ReadonlySet<string>): boolean {
  // Symmetric, so the smaller set is searched for in the larger.
  const [few, many] = reads.size < writes.size ? [reads, writes] : [writes, reads];
  if (few.size === 0) return false;
  for (const one of few) {
    if (many.has(one)) return true;
    const kind = kindOf(one);
    if (many.has(`${kind} *`)) return true;
    if (one.endsWith(' *')) for (const other of many) if (kindOf(other) === kind) return true;
  }
  return false;
}

function kindOf(token: string): string {
  const blank = token.indexOf(' ');
  return blank < 0 ? token : token.slice(0, blank);
}

/** The indexes of the entries that write something, by token. */
export class Writers {
  readonly #byToken = new Map<string, number[]>();
  readonly #byKind = new Map<string, number[]>();

  /** Entries must be added in ascending order. */
  add(place: number, writes: ReadonlySet<string>): void {
    for (const token of writes) {
      for (const [index, name] of [
        [this.#byToken, token],
        [this.#byKind, kindOf(token)],
      ] as const) {
        const places = index.get(name);
        if (!places) index.set(name, [place]);
        else if (places.at(-1) !== place) places.push(place);
      }
    }
  }

  /** The indexes of possible writers of the tokens read somewhere, from last to first. */
  walk(): WriterWalk {
    return new WriterWalk((read) => {
      const whole = read.endsWith(' *') ? this.#byKind.get(kindOf(read)) : undefined;
      return [whole ?? this.#byToken.get(read), this.#byToken.get(`${kindOf(read)} *`)];
    });
  }
}

interface Cursor {
  /** Ascending. */
  readonly places: readonly number[];
  readonly at: number;
}

/** Visits the writers of a growing set of tokens in descending order, each index once. See `meets`. */
export class WriterWalk {
  readonly #wanted = new Set<string>();
  /** A heap: the cursor with the largest index is first. */
  readonly #cursors: Cursor[] = [];

  constructor(readonly writersOf: (read: string) => readonly (readonly number[] | undefined)[]) {}

  has(read: string): boolean {
    return this.#wanted.has(read);
  }

  /** Also visits writers of these tokens before `end`. */
  want(reads: Iterable<string>, end: number): void {
    for (const read of reads) {
      if (this.#wanted.has(read)) continue;
      this.#wanted.add(read);
      for (const places of this.writersOf(read)) if (places) this.#push({ places, at: below(places, end) });
    }
  }

  /** The next index, smaller than all before; -1 if there is none. */
  next(): number {
    const [first] = this.#cursors;
    if (!first) return -1;
    const place = placeOf(first);
    for (let same: Cursor | undefined = first; same && placeOf(same) === place; same = this.#cursors[0]) {
      const last = this.#cursors.pop();
      if (last && this.#cursors.length > 0) this.#sink(last);
      this.#push({ places: same.places, at: same.at - 1 });
    }
    return place;
  }

  #push(cursor: Cursor): void {
    if (cursor.at < 0) return;
    let slot = this.#cursors.push(cursor) - 1;
    for (
      let up = (slot - 1) >> 1;
      slot > 0 && placeOf(elementAt(this.#cursors, up)) < placeOf(cursor);
      up = (slot - 1) >> 1
    ) {
      this.#cursors[slot] = elementAt(this.#cursors, up);
      this.#cursors[up] = cursor;
      slot = up;
    }
  }

  /** Replaces the first cursor. */
  #sink(cursor: Cursor): void {
    const all = this.#cursors;
    let slot = 0;
    for (;;) {
      const [left, right] = [2 * slot + 1, 2 * slot + 2];
      if (left >= all.length) break;
      const larger =
        right < all.length && placeOf(elementAt(all, right)) > placeOf(elementAt(all, left)) ? right : left;
      if (placeOf(elementAt(all, larger)) <= placeOf(cursor)) break;
      all[slot] = elementAt(all, larger);
      slot = larger;
    }
    all[slot] = cursor;
  }
}

const placeOf = ({ places, at }: Cursor): number => elementAt(places, at);

/** The position of the largest number below `end` in an ascending list; -1 if there is none. */
function below(ascending: readonly number[], end: number): number {
  let [low, high] = [0, ascending.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (elementAt(ascending, middle) < end) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

const known = new WeakMap<ChainEntry, Effects>();

/** What an entry of a chain reads from earlier ones, and what it writes. */
export function effectsOf(entry: ChainEntry): Effects {
  const before = known.get(entry);
  if (before) return before;
  const found = entry.kind === 'rule' ? ruleEffects(entry) : blockEffects(entry);
  known.set(entry, found);
  return found;
}

function ruleEffects(rule: Extract<ChainEntry, { kind: 'rule' }>): Effects {
  const parts = [...leavesOf(conditionOf(rule)).map(leafEffects), ...rule.actions.map(actionEffects)];
  return joined(parts);
}

function blockEffects({ text, works, requires }: Extract<ChainEntry, { kind: 'script' }>): Effects {
  return works ? statementEffects(parse(text).script.commands, requires.includes('variables')) : joined([]);
}

const joined = (parts: readonly Effects[]): Effects => ({
  reads: new Set(parts.flatMap(({ reads }) => [...reads])),
  writes: new Set(parts.flatMap(({ writes }) => [...writes])),
});

/** What a single test of a rule reads and writes. */
export function leafEffects(leaf: LeafTest): Effects {
  const looker = new Looker(false);
  looker.test(testNode({ kind: 'leaf', test: leaf } satisfies TestTree));
  return looker;
}

/** What an action reads and writes. */
export function actionEffects(action: Action): Effects {
  const looker = new Looker(false);
  looker.command(actionNode(action));
  return looker;
}

/** What statements read from before them, and what they write. `variables`: strings may contain references. */
export function statementEffects(statements: readonly Statement[], variables: boolean): Effects {
  const looker = new Looker(variables);
  for (const statement of statements) if (statement.kind === 'command') looker.command(statement);
  if (variables && readsMatchBefore(statements, false)) looker.reads.add('match');
  return looker;
}

/** Walks commands and tests and records reads and writes. */
class Looker implements Effects {
  readonly reads = new Set<string>();
  readonly writes = new Set<string>();

  constructor(readonly variables: boolean) {}

  command(node: CommandNode): void {
    const signature = commands.get(node.name);
    if (signature) this.#own(node, signature, COMMANDS[node.name]);
    node.tests.forEach((test) => {
      this.test(test);
    });
    for (const inner of node.block?.commands ?? []) if (inner.kind === 'command') this.command(inner);
  }

  test(node: TestNode): void {
    const signature = tests.get(node.name);
    if (signature) this.#own(node, signature, TESTS[node.name] ?? ((look) => look.read(ANY_HEADER)));
    for (const child of node.tests) this.test(child);
  }

  read(...tokens: readonly string[]): void {
    for (const token of tokens) this.reads.add(token);
  }

  write(...tokens: readonly string[]): void {
    for (const token of tokens) this.writes.add(token);
  }

  /** Header fields by name; any field if the name is known only at run time. */
  headers(bound: Bound, argument: string): string[] {
    return bound.strings(argument).map((name) => (this.#varies(name) ? ANY_HEADER : `header ${name.toLowerCase()}`));
  }

  #varies(text: string): boolean {
    return this.variables && hasReferences(text);
  }

  #own(node: CommandNode | TestNode, signature: Signature, look: Look | undefined): void {
    const { bound, diagnostics } = bind(signature, node, { variables: this.variables });
    if (diagnostics.length > 0) return;
    look?.(this, bound);
    if (bound.tag('mime') !== null) this.read(...STRUCTURE);
    // A match sets the match variables (RFC 5229 section 3.2), except in tests of the body (RFC 5173 section 6).
    if (/^(matches|regex)$/.test(bound.tag('match-type') ?? '') && node.name !== 'body') this.write('match');
    if (!this.variables) return;
    for (const name of namesIn(node)) if (!/^\d/.test(name)) this.read(variable(name));
  }
}

type Look = (look: Looker, bound: Bound) => void;

/** Global variables of one name are shared by all scripts (RFC 6609 section 3.4). */
export const variable = (name: string): string => `variable ${name.toLowerCase().replace(/^global\./, '')}`;

const byNames: Look = (look, bound) => look.read(...look.headers(bound, 'header-list'));
const nothing: Look = () => {};

/** A test without a row here may read any field. */
const TESTS: Readonly<Record<string, Look>> = {
  allof: nothing,
  anyof: nothing,
  not: nothing,
  true: nothing,
  false: nothing,
  header: byNames,
  address: byNames,
  exists: byNames,
  date: (look, bound) => look.read(...look.headers(bound, 'header-name')),
  body: (look) => look.read(...STRUCTURE),
  size: nothing,
  envelope: nothing,
  currentdate: nothing,
  string: nothing,
  environment: nothing,
  ihave: nothing,
  mailboxexists: nothing,
  metadata: nothing,
  metadataexists: nothing,
  servermetadata: nothing,
  servermetadataexists: nothing,
  specialuse_exists: nothing,
  valid_notify_method: nothing,
  notify_method_capability: nothing,
  valid_ext_list: nothing,
  // A run does not see its own notes (RFC 7352 section 3).
  duplicate: (look, bound) =>
    look.read(...(bound.has('header') ? look.headers(bound, 'header') : ['header message-id'])),
  hasflag: (look, bound) =>
    look.read(...(bound.has('variable-list') ? bound.strings('variable-list').map(variable) : ['flags'])),
};

const marks: Look = (look, bound) =>
  look.write(...(bound.has('variable') ? bound.strings('variable').map(variable) : ['flags']));

const edits: Look = (look, bound) => look.write(...look.headers(bound, 'field-name'));

/** Commands that only add or remove need not read: a later reader reads everything written. */
const COMMANDS: Readonly<Record<string, Look>> = {
  addheader: edits,
  deleteheader: edits,
  set: (look, bound) => look.write(...bound.strings('name').map(variable)),
  extracttext: (look, bound) => {
    look.read(...STRUCTURE);
    look.write(...bound.strings('varname').map(variable));
  },
  foreverypart: (look) => look.read(...STRUCTURE),
  // A declared variable is shared from then on.
  global: (look, bound) => look.write(...bound.strings('names').map(variable)),
  include: (look) => {
    look.read(...EVERYTHING);
    look.write(...EVERYTHING);
  },
  setflag: marks,
  addflag: marks,
  removeflag: marks,
  // The header decides who gets a reply, if any (RFC 5230 sections 4.5 and 4.6).
  vacation: (look) => look.read(ANY_HEADER),
  notify: (look) => look.read('header auto-submitted'),
};

/** The variables that the strings of a node refer to. */
function namesIn(node: CommandNode | TestNode): string[] {
  return stringsIn(node.args).flatMap(({ value }) => [...value.matchAll(REFERENCE)].map(([, name = '']) => name));
}

const readsMatch = (node: CommandNode | TestNode): boolean => namesIn(node).some((name) => /^\d/.test(name));

/** Whether statements read match variables that an earlier command may have set. `set`: they were set just now. */
export function readsMatchBefore(statements: readonly Statement[], set: boolean): boolean {
  return statements.some((statement) => {
    if (statement.kind !== 'command') return false;
    if (!set && (readsMatch(statement) || statement.tests.some((test) => testReadsMatch(test)))) return true;
    const inside = set || statement.tests.some(surelyMatches);
    return readsMatchBefore(statement.block?.commands ?? [], inside);
  });
}

/** In an allof, tests after one that has matched read what it has set. */
function testReadsMatch(test: TestNode): boolean {
  if (readsMatch(test)) return true;
  for (const child of test.tests) {
    if (testReadsMatch(child)) return true;
    if (test.name === 'allof' && surelyMatches(child)) return false;
  }
  return false;
}

/** Whether a test that is true has set the match variables. */
function surelyMatches(test: TestNode): boolean {
  if (test.name === 'allof') return test.tests.some(surelyMatches);
  if (test.name === 'anyof') return test.tests.length > 0 && test.tests.every(surelyMatches);
  if (/^(not|body)$/.test(test.name)) return false;
  return test.args.some((argument) => argument.kind === 'tag' && /^(matches|regex)$/.test(argument.name));
}

/** Whether strings of the statements contain references to variables. */
export function refers(statements: readonly Statement[]): boolean {
  let found = false;
  eachString(statements, ({ value }) => {
    found ||= hasReferences(value);
  });
  return found;
}
