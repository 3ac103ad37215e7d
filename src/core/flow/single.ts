import { isFurther } from '../rules/further-action-nodes';
import { profileOf } from '../rules/profile';
import { type Chain, conditionOf, looksAtFlags, type Rule, type TestTree } from '../rules/rule';
import { FateBuilder, fateKey, flagKeys, KEPT, normalFlags } from '../sieve/interpret/fate';
import { ScriptError } from '../sieve/interpret/run';
import { compileMatcher } from '../sieve/match/matcher';
import { type AtomBitmaps, holds } from './conditions';

/** The fate of a message under a chain, as `fateKey` writes it. */
export type SingleRun = (message: number) => string;

/** Runs chains over single messages, which is much faster than a flow if only a few messages matter. */
export class SingleRuns {
  readonly #held = new WeakMap<Rule, Held>();

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
      steps.push({ rule: entry, holds: this.#heldBy(entry), startsRun: starts });
      starts = false;
    }
    return (message) => fateOf(steps, message);
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

function fateOf(steps: readonly Step[], message: number): string {
  const builder = new FateBuilder();
  let flags: readonly string[] = [];
  let runFired = false;
  for (const { rule, holds, startsRun } of steps) {
    if (startsRun) runFired = false;
    if (runFired || !holds(message, flags)) continue;
    runFired = true;
    for (const action of rule.actions) {
      if (isFurther(action)) throw new Error('only the interpreter knows this action');
      if (action.action === 'setflag') flags = normalFlags(action.flags);
      else if (action.action === 'addflag') flags = [...new Set([...flags, ...normalFlags(action.flags)])];
      else if (action.action === 'removeflag') {
        const gone = normalFlags(action.flags);
        flags = flags.filter((flag) => !gone.includes(flag));
      } else {
        const given = 'flags' in action && action.flags !== null ? { flags: normalFlags(action.flags) } : {};
        builder.take({ ...action, ...given }, flags);
      }
    }
    if (rule.ending === 'stop') break;
  }
  try {
    return fateKey(builder.finish(flags));
  } catch (error) {
    if (error instanceof ScriptError) return fateKey(KEPT);
    throw error;
  }
}
