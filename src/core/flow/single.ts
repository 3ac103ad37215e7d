import { isFurther } from '../rules/further-action-nodes';
import { type Chain, conditionOf, looksAtFlags, type Rule } from '../rules/rule';
import { FateBuilder, fateKey, KEPT, normalFlags } from '../sieve/interpret/fate';
import { ScriptError } from '../sieve/interpret/run';
import { elementAt } from '../text/lookup';
import type { Bitmap } from './bitmap';
import { type AtomBitmaps, holds } from './conditions';

/** The fate of a message under a chain, as `fateKey` writes it. */
export type SingleRun = (message: number) => string;

/** Runs chains over single messages, which is much faster than a flow if only a few messages matter. */
export class SingleRuns {
  readonly #held = new WeakMap<Rule, Bitmap>();

  /** `checkpoint` is called for each rule not seen before, and may throw to cancel. */
  constructor(
    readonly atoms: AtomBitmaps,
    readonly count: number,
    readonly checkpoint: () => void = () => {},
  ) {}

  /** Null for a chain with script blocks, tests of flags, or actions that need the interpreter. */
  maybeRun(chain: Chain): SingleRun | null {
    const rules: Rule[] = [];
    const held: Bitmap[] = [];
    const startsRun: boolean[] = [];
    // A rule that is off is skipped, but its linked run continues after it.
    let starts = true;
    for (const entry of chain.entries) {
      if (entry.kind === 'script' || entry.link === 'always') starts = true;
      if (!entry.on) continue;
      if (entry.kind === 'script' || !isPlain(entry)) return null;
      rules.push(entry);
      held.push(this.#heldBy(entry));
      startsRun.push(starts);
      starts = false;
    }
    return (message) => fateOf(rules, held, startsRun, message);
  }

  #heldBy(rule: Rule): Bitmap {
    const known = this.#held.get(rule);
    if (known) return known;
    this.checkpoint();
    const held = holds(conditionOf(rule), this.atoms, { count: this.count, flags: new Map() });
    this.#held.set(rule, held);
    return held;
  }
}

const plain = new WeakMap<Rule, boolean>();

function isPlain(rule: Rule): boolean {
  const known = plain.get(rule);
  if (known !== undefined) return known;
  const found = !looksAtFlags(conditionOf(rule)) && !rule.actions.some(isFurther);
  plain.set(rule, found);
  return found;
}

function fateOf(
  rules: readonly Rule[],
  held: readonly Bitmap[],
  startsRun: readonly boolean[],
  message: number,
): string {
  const builder = new FateBuilder();
  let flags: readonly string[] = [];
  let runFired = false;
  for (let at = 0; at < rules.length; at++) {
    if (startsRun[at]) runFired = false;
    if (runFired || !elementAt(held, at).has(message)) continue;
    runFired = true;
    const rule = elementAt(rules, at);
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
