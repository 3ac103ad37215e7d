import { inContext } from '../rules/context';
import { type Chain, type ChainEntry, conditionOf, type Rule } from '../rules/rule';
import { blockSteps, type Step } from '../rules/steps';
import { Fates, nameInContext } from './fates';
import type { Lowering } from './lower';
import { FALSE, type Formula, not, TRUE } from './solve/formula';

/** A chain as formulas over the facts of a message. */
export interface LoweredChain {
  /** In the order of the chain. */
  readonly entries: readonly LoweredEntry[];
  /** When each part of the fate comes about. */
  readonly fates: ReadonlyMap<string, Formula>;
}

export interface LoweredEntry {
  readonly entry: ChainEntry;
  /** Its tests hold and no exception does; of a script block this is not known, and it is taken to hold always. */
  readonly condition: Formula;
  /** It is tried: no rule before has stopped the message, and none of its run has fired. */
  readonly reached: Formula;
  readonly fires: Formula;
  /** For a message that is tried here: later entries do not see it. */
  readonly ends: Formula;
}

/** `checkpoint` is called before each entry, and may throw to cancel. */
export function lowerChain(chain: Chain, lowering: Lowering, checkpoint: () => void = () => {}): LoweredChain {
  const { formulas } = lowering;
  const fates = new Fates(formulas, (name) => lowering.free(name));
  const entries: LoweredEntry[] = [];
  // For what is still alive, a rule of the run at hand has fired exactly where its condition holds.
  let claimed = FALSE;
  for (const [place, entry] of inContext(chain).entries.entries()) {
    checkpoint();
    const written = chain.entries[place] as ChainEntry;
    if (entry.kind === 'script' || entry.link === 'always') claimed = FALSE;
    const condition = entry.kind === 'rule' ? conditionIn(entry, fates, lowering) : TRUE;
    const reached = entry.on ? formulas.and(fates.alive, not(claimed)) : FALSE;
    const fires = formulas.and(reached, condition);
    const before = fates.alive;
    if (!entry.on) {
      entries.push({ entry: written, condition, reached, fires, ends: FALSE });
      continue;
    }
    if (entry.kind === 'rule') {
      for (const action of entry.actions) fates.act(action, fires);
      const ends = entry.ending === 'stop' ? formulas.and(condition, not(claimed)) : FALSE;
      fates.stop(ends);
      claimed = formulas.or(claimed, condition);
      entries.push({ entry: written, condition, reached, fires, ends });
    } else {
      const steps = blockSteps(entry);
      if (steps) runSteps(steps, reached, fates, lowering);
      else fates.runUnknown(nameInContext(entry.text, entry.before), reached);
      const ends = formulas.and(before, not(fates.alive));
      entries.push({ entry: written, condition, reached, fires, ends });
    }
  }
  return { entries, fates: fates.finish() };
}

const conditionIn = (rule: Rule, fates: Fates, lowering: Lowering): Formula =>
  lowering.condition(conditionOf(rule), (test) => fates.hasFlag(test));

function runSteps(steps: readonly Step[], when: Formula, fates: Fates, lowering: Lowering): void {
  const { formulas } = lowering;
  for (const step of steps) {
    const here = formulas.and(when, fates.alive);
    switch (step.kind) {
      case 'act':
        fates.act(step.action, here);
        break;
      case 'stop':
        fates.stop(here);
        break;
      case 'choose': {
        let rest = here;
        for (const { condition, body } of step.branches) {
          const holds = lowering.condition(condition, (test) => fates.hasFlag(test));
          runSteps(body, formulas.and(rest, holds), fates, lowering);
          rest = formulas.and(rest, not(holds));
        }
        break;
      }
      default:
        step satisfies never;
    }
  }
}
