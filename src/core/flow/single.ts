import { isFurther } from '../rules/further-action-nodes';
import { profileOf } from '../rules/profile';
import { type Action, type Chain, conditionOf, leavesOf, looksAtFlags, type Rule, type TestTree } from '../rules/rule';
import { FateBuilder, fateKey, flagKeys, KEPT, normalFlags } from '../sieve/interpret/fate';
import { ScriptError } from '../sieve/interpret/run';
import { compileMatcher } from '../sieve/match/matcher';
import { elementAt } from '../text/lookup';
import type { Bitmap } from './bitmap';
import { type AtomBitmaps, holds } from './conditions';

/** The fate of a message under a chain, as `fateKey` writes it; `fired`, if given, receives the rules that fire. */
export type SingleRun = (message: number, fired?: (rule: Rule) => void) => string;

/** Runs chains over single messages, which is much faster than a flow if only a few messages matter. */
export class SingleRuns {
  readonly #own = new WeakMap<Rule, Own>();
  readonly #fates = new FatesOfRules();
  /** The rules of the first chain that was run, and which of them may fire for a message. */
  #first: readonly Own[] | null = null;
  #matching: Matching | null = null;

  /** `checkpoint` is called for each rule not seen before, and may throw to cancel. */
  constructor(
    readonly atoms: AtomBitmaps,
    readonly count: number,
    readonly checkpoint: () => void = () => {},
  ) {}

  /** Null for a chain with a profile, with script blocks, or with actions that need the interpreter. */
  maybeRun(chain: Chain): SingleRun | null {
    if (profileOf(chain)) return null;
    const steps: Own[] = [];
    const runs: number[] = [];
    let run = 0;
    for (const entry of chain.entries) {
      // A rule that is off is skipped, but its linked run continues after it.
      if (entry.kind === 'script' || entry.link === 'always') run++;
      if (!entry.on) continue;
      if (entry.kind === 'script' || !isPlain(entry)) return null;
      steps.push(this.#ownOf(entry));
      runs.push(run);
    }
    const first = this.#first ?? beginning(steps);
    this.#first = first;
    /** By place among the rules of the first chain: their places in this one. */
    const places = new Int32Array(first.length).fill(NOWHERE);
    const others: number[] = [];
    for (const [place, { first: own }] of steps.entries()) {
      if (own === NOWHERE) others.push(place);
      else places[own] = place;
    }
    const isShared = others.length <= MOST_OTHERS && others.every((place) => elementAt(steps, place).matching !== null);
    /** By the number of the list of the first chain's rules, and which others match. */
    const fates = new Map<number, string>();
    return (message, fired) => {
      const matching = this.#matchingFirst();
      const number = elementAt(matching.listOf, message);
      let mask = 0;
      for (let at = 0; at < others.length; at++) {
        if (mayFire(elementAt(steps, elementAt(others, at)), message)) mask |= 1 << (at & 31);
      }
      const key = number * 2 ** MOST_OTHERS + mask;
      const known = isShared && !fired ? fates.get(key) : undefined;
      if (known !== undefined) return known;
      const those = others.filter((place) => mayFire(elementAt(steps, place), message));
      for (const at of listed(matching, number)) {
        const place = places[at] ?? NOWHERE;
        if (place !== NOWHERE) those.push(place);
      }
      those.sort((a, b) => a - b);
      const fate = this.#fates.of(firing(those, steps, runs, message, fired));
      if (isShared) fates.set(key, fate);
      return fate;
    };
  }

  /** The rules of the first chain that may fire for each message: other chains have nearly all of them. */
  #matchingFirst(): Matching {
    this.#matching ??= matchingAll(this.#first ?? [], this.count, (tree) => this.#bitmapOf(tree));
    return this.#matching;
  }

  /** Whether a message matches a rule, reached or not; flags set by earlier rules do not count. */
  holds(rule: Rule, message: number): boolean {
    return this.#ownOf(rule).holds(message, NO_FLAGS);
  }

  #ownOf(rule: Rule): Own {
    const known = this.#own.get(rule);
    if (known) return known;
    this.checkpoint();
    const condition = conditionOf(rule);
    const matching = looksAtFlags(condition) ? null : this.#bitmapOf(condition);
    const holds: Held = matching ? (message) => matching.has(message) : this.#holding(condition);
    const own = { rule, matching, holds, marks: marksMail(rule), first: NOWHERE };
    this.#own.set(rule, own);
    return own;
  }

  #bitmapOf(tree: TestTree): Bitmap {
    return holds(tree, this.atoms, { count: this.count, flags: new Map() });
  }

  #holding(tree: TestTree): Held {
    if (!looksAtFlags(tree)) {
      const bitmap = this.#bitmapOf(tree);
      return (message) => bitmap.has(message);
    }
    if (tree.kind === 'leaf') {
      const { test } = tree;
      if (test.test !== 'hasflag') throw new Error('no test of flags');
      const matches = compileMatcher(test.comparator, test.match, flagKeys(test.match, test.keys));
      return (_, flags) => flags.some((flag) => matches(flag));
    }
    const children = tree.children.map((child) => this.#holding(child));
    if (tree.kind === 'all') return (message, flags) => children.every((child) => child(message, flags));
    const some: Held = (message, flags) => children.some((child) => child(message, flags));
    return tree.kind === 'any' ? some : (message, flags) => !some(message, flags);
  }
}

/** Whether a message matches, given the flags set so far. */
type Held = (message: number, flags: readonly string[]) => boolean;

const NOWHERE = -1;
/** Rules that the first chain lacks, which may be told apart by one number. */
const MOST_OTHERS = 16;

/** Numbers the rules of the first chain. */
function beginning(steps: readonly Own[]): readonly Own[] {
  for (const [place, step] of steps.entries()) step.first = place;
  return steps;
}

/**
 * Which rules may fire for each message: those that match it, and those that look at flags. Messages with the same list of
 * rules have the same fate under them. A list is another one and one rule more, so that a million of them take little room.
 */
interface Matching {
  /** By message: the number of its list; 0 is empty. */
  readonly listOf: Uint32Array;
  /** By number: the list without its last rule, and the place of that, or `NOWHERE`. */
  readonly rest: readonly number[];
  readonly last: readonly number[];
  /** Rules that look at flags. */
  readonly always: readonly number[];
}

/** The places of rules in a list, in no order. */
function listed({ rest, last, always }: Matching, number: number): number[] {
  const places = [...always];
  for (let at = number; at !== 0; at = elementAt(rest, at)) {
    const place = elementAt(last, at);
    if (place !== NOWHERE) places.push(place);
  }
  return places;
}

/** For all messages at once. */
function matchingAll(rules: readonly Own[], count: number, bitmapOf: (tree: TestTree) => Bitmap): Matching {
  const listOf = new Uint32Array(count);
  const rest = [0];
  const last = [NOWHERE];
  const split = (members: Iterable<number>, place: number) => {
    const parts = new Map<number, number>();
    for (const message of members) {
      const whole = elementAt(listOf, message);
      let part = parts.get(whole);
      if (part === undefined) {
        part = rest.push(whole) - 1;
        last.push(place);
        parts.set(whole, part);
      }
      listOf[message] = part;
    }
  };
  const always: number[] = [];
  for (const [place, { rule, matching }] of rules.entries()) {
    if (matching) {
      split(matching.members(), place);
      continue;
    }
    // What else than flags such a rule looks at tells messages apart too.
    always.push(place);
    const leaves = leavesOf(conditionOf(rule)).filter(({ test }) => test !== 'hasflag');
    for (const test of leaves) split(bitmapOf({ kind: 'leaf', test }).members(), NOWHERE);
  }
  return { listOf, rest, last, always };
}

/** What a rule is by itself. */
interface Own {
  readonly rule: Rule;
  /** The messages it matches, reached or not; null if it looks at flags. */
  readonly matching: Bitmap | null;
  readonly holds: Held;
  /** Whether it changes flags. */
  readonly marks: boolean;
  /** Its place among the rules of the first chain, or `NOWHERE`. */
  first: number;
}

const marksMail = ({ actions }: Rule): boolean =>
  actions.some(({ action }) => action === 'setflag' || action === 'addflag' || action === 'removeflag');

const mayFire = ({ matching }: Own, message: number): boolean => matching === null || matching.has(message);

const plain = new WeakMap<Rule, boolean>();

function isPlain(rule: Rule): boolean {
  const known = plain.get(rule);
  if (known !== undefined) return known;
  const found = !rule.actions.some(isFurther);
  plain.set(rule, found);
  return found;
}

/** The rules that fire, of those at some places, in order. */
function firing(
  places: readonly number[],
  steps: readonly Own[],
  runs: readonly number[],
  message: number,
  fired: (rule: Rule) => void = () => {},
): Rule[] {
  const rules: Rule[] = [];
  let firedRun = NOWHERE;
  let flags = NO_FLAGS;
  for (const place of places) {
    const { rule, holds, marks } = elementAt(steps, place);
    // Only one rule of a linked run fires.
    if (runs[place] === firedRun || !holds(message, flags)) continue;
    firedRun = runs[place] ?? NOWHERE;
    rules.push(rule);
    fired(rule);
    if (marks) flags = flagsAfter(flags, rule);
    if (rule.ending === 'stop') break;
  }
  return rules;
}

const NO_FLAGS: readonly string[] = [];

/** Fates by the rules that fire: most messages of a mailbox share theirs with others. */
class FatesOfRules {
  readonly #numbers = new WeakMap<Rule, number>();
  #count = 0;
  readonly #known = new Map<string, string>();

  of(rules: readonly Rule[]): string {
    let key = '';
    for (const rule of rules) key += `${this.#numberOf(rule)},`;
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    const fate = fateAfter(rules);
    if (this.#known.size >= MOST_FATES) this.#known.clear();
    this.#known.set(key, fate);
    return fate;
  }

  #numberOf(rule: Rule): number {
    const known = this.#numbers.get(rule) ?? this.#count++;
    this.#numbers.set(rule, known);
    return known;
  }
}

const MOST_FATES = 100_000;

/** The flags once a rule has fired. */
const flagsAfter = (flags: readonly string[], { actions }: Rule): readonly string[] => actions.reduce(withFlags, flags);

function withFlags(flags: readonly string[], action: Action): readonly string[] {
  if (action.action === 'setflag') return normal(action.flags);
  if (action.action === 'addflag') return [...new Set([...flags, ...normal(action.flags)])];
  if (action.action !== 'removeflag') return flags;
  const gone = normal(action.flags);
  return flags.filter((flag) => !gone.includes(flag));
}

const normalised = new WeakMap<readonly string[], readonly string[]>();

/** `normalFlags`, once for the flags of an action. */
function normal(flags: readonly string[]): readonly string[] {
  const known = normalised.get(flags) ?? normalFlags(flags);
  normalised.set(flags, known);
  return known;
}

function fateAfter(rules: readonly Rule[]): string {
  const builder = new FateBuilder();
  let flags: readonly string[] = [];
  for (const action of rules.flatMap(({ actions }) => actions)) {
    if (isFurther(action)) throw new Error('only the interpreter knows this action');
    flags = withFlags(flags, action);
    if (action.action === 'setflag' || action.action === 'addflag' || action.action === 'removeflag') continue;
    const given = 'flags' in action && action.flags !== null ? { flags: normal(action.flags) } : {};
    builder.take({ ...action, ...given }, flags);
  }
  try {
    return fateKey(builder.finish(flags));
  } catch (error) {
    if (error instanceof ScriptError) return fateKey(KEPT);
    throw error;
  }
}
