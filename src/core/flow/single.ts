import { isFurther } from '../rules/further-action-nodes';
import { profileOf } from '../rules/profile';
import { type Action, type Chain, conditionOf, looksAtFlags, type Rule, type TestTree } from '../rules/rule';
import { FateBuilder, fateKey, flagKeys, KEPT, normalFlags } from '../sieve/interpret/fate';
import { ScriptError } from '../sieve/interpret/run';
import { compileMatcher } from '../sieve/match/matcher';
import { type AtomBitmaps, holds } from './conditions';

/** The fate of a message under a chain, as `fateKey` writes it; `fired`, if given, receives the rules that fire. */
export type SingleRun = (message: number, fired?: (rule: Rule) => void) => string;

/** Runs chains over single messages, which is much faster than a flow if only a few messages matter. */
export class SingleRuns {
  readonly #held = new WeakMap<Rule, Held>();
  readonly #fates = new FatesOfRules();

  /** `checkpoint` is called for each rule not seen before, and may throw to cancel. */
  constructor(
    readonly atoms: AtomBitmaps,
    readonly count: number,
    readonly checkpoint: () => void = () => {},
  ) {}

  /** Null for a chain with a profile, with script blocks, or with actions that need the interpreter. */
  maybeRun(chain: Chain): SingleRun | null {
    if (profileOf(chain)) return null;
    const steps: Step[] = [];
    // A rule that is off is skipped, but its linked run continues after it.
    let starts = true;
    for (const entry of chain.entries) {
      if (entry.kind === 'script' || entry.link === 'always') starts = true;
      if (!entry.on) continue;
      if (entry.kind === 'script' || !isPlain(entry)) return null;
      const needsFlags = looksAtFlags(conditionOf(entry));
      steps.push({ rule: entry, holds: this.#heldBy(entry), needsFlags, startsRun: starts });
      starts = false;
    }
    return (message, fired) => this.#fates.of(firing(steps, message, fired));
  }

  /** Whether a message matches a rule, reached or not; flags set by earlier rules do not count. */
  holds(rule: Rule, message: number): boolean {
    return this.#heldBy(rule)(message, []);
  }

  #heldBy(rule: Rule): Held {
    const known = this.#held.get(rule);
    if (known) return known;
    this.checkpoint();
    const held = this.#holding(conditionOf(rule));
    this.#held.set(rule, held);
    return held;
  }

  #holding(tree: TestTree): Held {
    if (!looksAtFlags(tree)) {
      const bitmap = holds(tree, this.atoms, { count: this.count, flags: new Map() });
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

interface Step {
  readonly rule: Rule;
  readonly holds: Held;
  readonly needsFlags: boolean;
  readonly startsRun: boolean;
}

const plain = new WeakMap<Rule, boolean>();

function isPlain(rule: Rule): boolean {
  const known = plain.get(rule);
  if (known !== undefined) return known;
  const found = !rule.actions.some(isFurther);
  plain.set(rule, found);
  return found;
}

/** The rules that fire, in order. */
function firing(steps: readonly Step[], message: number, fired: (rule: Rule) => void = () => {}): Rule[] {
  const rules: Rule[] = [];
  let runFired = false;
  for (const { rule, holds, needsFlags, startsRun } of steps) {
    if (startsRun) runFired = false;
    if (runFired || !holds(message, needsFlags ? flagsAfter(rules) : NO_FLAGS)) continue;
    runFired = true;
    rules.push(rule);
    fired(rule);
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

/** The flags set once these rules have fired. */
function flagsAfter(rules: readonly Rule[]): readonly string[] {
  let flags: readonly string[] = [];
  for (const action of rules.flatMap(({ actions }) => actions)) flags = withFlags(flags, action);
  return flags;
}

function withFlags(flags: readonly string[], action: Action): readonly string[] {
  if (action.action === 'setflag') return normalFlags(action.flags);
  if (action.action === 'addflag') return [...new Set([...flags, ...normalFlags(action.flags)])];
  if (action.action !== 'removeflag') return flags;
  const gone = normalFlags(action.flags);
  return flags.filter((flag) => !gone.includes(flag));
}

function fateAfter(rules: readonly Rule[]): string {
  const builder = new FateBuilder();
  let flags: readonly string[] = [];
  for (const action of rules.flatMap(({ actions }) => actions)) {
    if (isFurther(action)) throw new Error('only the interpreter knows this action');
    flags = withFlags(flags, action);
    if (action.action === 'setflag' || action.action === 'addflag' || action.action === 'removeflag') continue;
    const given = 'flags' in action && action.flags !== null ? { flags: normalFlags(action.flags) } : {};
    builder.take({ ...action, ...given }, flags);
  }
  try {
    return fateKey(builder.finish(flags));
  } catch (error) {
    if (error instanceof ScriptError) return fateKey(KEPT);
    throw error;
  }
}
