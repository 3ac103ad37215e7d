import { type EntryFate, type FateEngine, traverse } from '../fates/traverse';
import type { FurtherAction } from '../rules/further-actions';
import {
  type Action,
  type Chain,
  type ChainEntry,
  conditionOf,
  type Rule,
  type ScriptBlock,
  type TestTree,
} from '../rules/rule';
import { Fates, nameInContext } from './fates';
import type { Lowering } from './lower';
import { type Formula, not } from './solve/formula';

/** A chain as formulas over the facts of a message. */
export interface LoweredChain {
  /** In the order of the chain. */
  readonly entries: readonly LoweredEntry[];
  /** The condition of each part of the fate. */
  readonly fates: ReadonlyMap<string, Formula>;
}

export interface LoweredEntry {
  readonly entry: ChainEntry;
  /** The tests are true and no exception is; unknown for a script block, which counts as always true. */
  readonly condition: Formula;
  /** The rule is tried: no earlier rule stopped the message, and no earlier rule of the run acted. */
  readonly reached: Formula;
  readonly fires: Formula;
  /** Given that the rule is tried, later entries do not see the message. */
  readonly ends: Formula;
}

/** `checkpoint` is called before each entry, and may throw to cancel. */
export function lowerChain(chain: Chain, lowering: Lowering, checkpoint: () => void = () => {}): LoweredChain {
  const engine = new FormulaEngine(lowering);
  const entries: LoweredEntry[] = [];
  const note = ({ written, condition, reached, fired, ends }: EntryFate<Formula>) =>
    entries.push({ entry: written, condition, reached, fires: fired, ends });
  traverse(chain, engine, note, checkpoint);
  return { entries, fates: engine.state.parts() };
}

class FormulaEngine implements FateEngine<Formula> {
  readonly state: Fates;

  constructor(readonly lowering: Lowering) {
    this.state = new Fates(lowering.formulas, (name) => lowering.free(name));
  }

  condition(rule: Rule): Formula {
    return this.holds(conditionOf(rule));
  }

  holds(tests: TestTree): Formula {
    return this.lowering.condition(tests, (test) => this.state.hasFlag(test));
  }

  runUnknown(what: (Action & FurtherAction) | ScriptBlock, when: Formula): void {
    if ('kind' in what) this.state.runUnknown(nameInContext(what.text, what.before), when);
    else this.state.actUnknown(what, when);
  }

  /** An entry that acts is tried, so "tried" need not be repeated in what is subtracted. */
  ending(_: Formula, condition: Formula, claimed: Formula): Formula {
    return this.lowering.formulas.and(condition, not(claimed));
  }
}
