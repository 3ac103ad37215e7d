import { quote } from '../sieve/quote';
import { elementAt } from '../text/lookup';
import { actionEffects, type Effects, effectsOf, leafEffects, meets, Writers } from './effects';
import { isFurther } from './further-action-nodes';
import {
  type Action,
  type Chain,
  type ChainEntry,
  conditionOf,
  type LeafTest,
  leavesOf,
  type Rule,
  type ScriptBlock,
  type TestTree,
} from './rule';
import { blockSteps } from './statements';
import { sieveFromChain } from './to-sieve';

/**
 * Later entries see the header edits, variables and flags of earlier ones, so a test may depend on more than the
 * message. Whatever reaches an entry has reached all entries before it, so their effect is reproduced by running
 * exactly those that matter: they become a script, `before`, in front of the test, and both together depend on the
 * message alone.
 */

const contexts = new WeakMap<Chain, Chain>();

/**
 * Rewrites a chain so that every test carries the context it depends on; returns the same chain if none does. Entries
 * keep their places and ids; context added for another chain is replaced.
 */
export function inContext(chain: Chain): Chain {
  const known = contexts.get(chain);
  if (known) return known;
  const found = worksAlone(chain) ? chain : resolve(chain);
  contexts.set(chain, found);
  contexts.set(found, found);
  return found;
}

/** Whether no entry passes anything on that another entry reads, as in most chains. */
const worksAlone = ({ entries }: Chain): boolean => entries.every((entry) => entry.kind === 'rule' && !isPut(entry));

/** A chain whose entries pass on more text to each other than is allowed. */
class TooEntangled extends Error {}

/** Whether the scripts in front of its tests have more than this many characters in all. */
export function isTooEntangled(chain: Chain, most: number): boolean {
  if (worksAlone(chain)) return false;
  try {
    resolve(chain, most);
    return false;
  } catch (error) {
    if (error instanceof TooEntangled) return true;
    throw error;
  }
}

function resolve(chain: Chain, most = Number.POSITIVE_INFINITY): Chain {
  const plain = chain.entries.map(withoutContext);
  /** What the entries before this one write, and which of them do. */
  const written = new Set<string>();
  const writers = new Writers();
  let length = 0;
  const beforeOf = (place: number, reads: ReadonlySet<string>) => {
    const before = beforeText(plain, place, reads, writers);
    length += before?.length ?? 0;
    if (length > most) throw new TooEntangled();
    return before;
  };
  const entries = plain.map((entry, place) => {
    const put = inItsContext(entry, place, written, beforeOf);
    if (entry.on) {
      const { writes } = effectsOf(entry);
      writers.add(place, writes);
      for (const token of writes) written.add(token);
    }
    return put;
  });
  const same = entries.every((entry, place) => entry === chain.entries[place]);
  return same ? chain : { ...chain, entries };
}

function inItsContext(
  entry: ChainEntry,
  place: number,
  written: ReadonlySet<string>,
  beforeOf: (place: number, reads: ReadonlySet<string>) => string | null,
): ChainEntry {
  const { reads } = effectsOf(entry);
  const sees = (effects: Effects) => meets(withoutFlags(effects.reads), written);
  if (entry.kind === 'script') {
    // The flow engine tracks flags itself, as long as it can run the block without the interpreter.
    const runsAlone = blockSteps(entry) !== null && !sees({ reads, writes: NOTHING });
    const before = runsAlone || !meets(reads, written) ? null : beforeOf(place, reads);
    return before === null ? entry : putBlock(entry, before);
  }
  if (!sees({ reads, writes: NOTHING })) return entry;
  const wanted = new Set<string>();
  const note = (effects: Effects) => {
    if (sees(effects)) for (const read of withoutFlags(effects.reads)) wanted.add(read);
  };
  for (const leaf of leavesOf(conditionOf(entry))) note(leafEffects(leaf));
  for (const action of entry.actions) note(actionEffects(action));
  const before = beforeOf(place, wanted);
  if (before === null) return entry;
  return putRule(entry, before, {
    test: (leaf) => leaf.test !== 'hasflag' && sees(leafEffects(leaf)),
    action: (action) => isFurther(action) && sees(actionEffects(action)),
  });
}

const NOTHING: ReadonlySet<string> = new Set();

const withoutFlags = (tokens: ReadonlySet<string>): ReadonlySet<string> =>
  tokens.has('flags') ? new Set([...tokens].filter((token) => token !== 'flags')) : tokens;

/** The script of everything that wrote what an entry reads, and of what that depended on; null if nothing did. */
function beforeText(
  entries: readonly ChainEntry[],
  place: number,
  reads: ReadonlySet<string>,
  writers: Writers,
): string | null {
  const walk = writers.walk();
  walk.want(reads, place);
  const chosen = new Map<number, ChainEntry>();
  for (let at = walk.next(); at >= 0; at = walk.next()) {
    if (chosen.has(at)) continue;
    // A branch acts only if the earlier ones of its run did not.
    for (let run = at; ; run--) {
      const one = elementAt(entries, run);
      if (one.on && !chosen.has(run)) {
        chosen.set(run, stripped(one));
        walk.want(effectsOf(one).reads, at);
      }
      if (run === 0 || one.kind === 'script' || one.link === 'always') break;
    }
  }
  if (chosen.size === 0) return null;
  const kept = [...chosen].sort(([a], [b]) => a - b).map(([, entry]) => entry);
  // A match sets variables only if the script requires them.
  const also = walk.has('match') ? ['variables'] : [];
  return maybeJoined(kept, also) ?? sieveFromChain({ entries: kept, closing: '' }, 'export', { also }).text;
}

/**
 * Joins consecutive blocks of one script, if they mean the same under the union of their requires; null otherwise.
 * Cached, since where each of many blocks depends on all earlier ones this runs a hundred thousand times.
 */
function maybeJoined(entries: readonly ChainEntry[], also: readonly string[]): string | null {
  const [first] = entries;
  if (first?.kind !== 'script' || !also.every((one) => first.requires.includes(one))) return null;
  let text = '';
  for (const entry of entries) {
    const isSame = entry.kind === 'script' && entry.works && sameRequires(first, entry);
    if (!isSame) return null;
    text += `${entry.text}\n`;
  }
  return first.requires.length === 0 ? text : `require [${first.requires.map(quote).join(', ')}];\n${text}`;
}

const sameRequires = ({ requires: a }: ScriptBlock, { requires: b }: ScriptBlock): boolean =>
  a === b || (a.length === b.length && a.every((one, at) => one === b[at]));

const strippedEntries = new WeakMap<ChainEntry, ChainEntry>();

/** A rule without its effects on the fate of the message; cached per entry. */
function stripped(entry: ChainEntry): ChainEntry {
  const known = strippedEntries.get(entry);
  if (known) return known;
  const found: ChainEntry =
    entry.kind === 'script'
      ? { ...entry, name: '', note: '' }
      : {
          ...entry,
          name: '',
          note: '',
          actions: entry.actions.filter((action) => actionEffects(action).writes.size > 0),
          ending: 'continue',
        };
  strippedEntries.set(entry, found);
  return found;
}

/**
 * The entries that are on, read what others pass on, and would read something else in a chain without the entries
 * `without`.
 */
export function dependentsOn(chain: Chain, without: ReadonlySet<string>): ChainEntry[] {
  const inside = inContext(chain);
  if (inside === chain) return [];
  const rest = {
    ...chain,
    entries: chain.entries.map((entry) => (without.has(entry.id) ? { ...entry, on: false } : entry)),
  };
  const after = inContext(rest);
  return chain.entries.filter((entry, place) => {
    const [now, then] = [inside.entries[place], after.entries[place]];
    return entry.on && !without.has(entry.id) && now !== entry && now !== then;
  });
}

// Cached by text, so that results computed for equal contexts are found again.

const putRules = new WeakMap<Rule, { readonly before: string; readonly rule: Rule }>();
const putBlocks = new WeakMap<ScriptBlock, ScriptBlock>();
const originals = new WeakMap<object, ChainEntry>();

function putRule(
  rule: Rule,
  before: string,
  sees: { readonly test: (leaf: LeafTest) => boolean; readonly action: (action: Action) => boolean },
): Rule {
  const known = putRules.get(rule);
  if (known?.before === before) return known.rule;
  const put = (tree: TestTree): TestTree => {
    if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map(put) };
    const { test } = tree;
    if (test.test === 'in-context' || !sees.test(test)) return tree;
    return { kind: 'leaf', test: { test: 'in-context', before, meant: test } };
  };
  const made: Rule = {
    ...rule,
    tests: put(rule.tests),
    unless: rule.unless.map(put),
    actions: rule.actions.map((action) => (isFurther(action) && sees.action(action) ? { ...action, before } : action)),
  };
  putRules.set(rule, { before, rule: made });
  originals.set(made, rule);
  return made;
}

function putBlock(block: ScriptBlock, before: string): ScriptBlock {
  const known = putBlocks.get(block);
  if (known?.before === before) return known;
  const made: ScriptBlock = { ...block, before };
  putBlocks.set(block, made);
  originals.set(made, block);
  return made;
}

const isPut = (entry: ChainEntry): boolean => withoutContext(entry) !== entry;

const asTheyWere = new WeakMap<ChainEntry, ChainEntry>();

function withoutContext(entry: ChainEntry): ChainEntry {
  const known = asTheyWere.get(entry);
  if (known) return known;
  const found = asWritten(entry);
  asTheyWere.set(entry, found);
  return found;
}

/**
 * Removes added context from rules, edits, or anything else that contains tests and actions; returns the same object if
 * there was none. The result has the type of the input, as the casts state.
 */
export function asWritten<T>(value: T): T {
  if (typeof value !== 'object' || value === null) return value;
  const original = originals.get(value);
  if (original) return original as T;
  if (Array.isArray(value)) {
    const items = value.map(asWritten);
    return items.every((item, at) => item === value[at]) ? value : (items as T);
  }
  if ('meant' in value) return value.meant as T;
  const parts = Object.entries(value);
  const changed = parts.flatMap(([name, part]) => {
    const written =
      name === 'before' && typeof part === 'string' && ('text' in value || 'action' in value)
        ? undefined
        : asWritten(part);
    return written === part ? [] : [[name, written] as const];
  });
  if (changed.length === 0) return value;
  const rest = Object.fromEntries([...parts, ...changed].filter(([, part]) => part !== undefined));
  return rest as T;
}
