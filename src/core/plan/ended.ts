import type { Statement } from '../audit/finding';
import { isConfirmed } from '../audit/grouping';
import { idsIn } from '../rules/edit';
import type { PlanStep } from './plan';

/** What the steps of a plan do to the confirmed findings. */
export interface Ended {
  readonly confirmed: number;
  /** Keys of those that are gone once all steps are taken. */
  readonly gone: readonly string[];
  /** By step: the findings that it ends; each counts for one step. */
  readonly byStep: readonly number[];
}

/** `after`: all findings on the chain with the steps taken. */
export function endedBy(
  steps: readonly Pick<PlanStep, 'edits' | 'findings'>[],
  before: readonly Statement[],
  after: readonly Statement[],
): Ended {
  const left = new Set(after.filter(isConfirmed).map(({ key }) => key));
  const confirmed = before.filter(isConfirmed);
  const gone = confirmed.filter(({ key }) => !left.has(key));
  const byStep = steps.map(() => 0);
  const about = steps.map(({ edits }) => new Set(edits.flatMap(idsIn)));
  for (const { key, rules } of gone) {
    const own = steps.findIndex(({ findings }) => findings.includes(key));
    const step = own >= 0 ? own : about.findIndex((ids) => rules.some((id) => ids.has(id)));
    if (step >= 0) byStep[step] = (byStep[step] ?? 0) + 1;
  }
  return { confirmed: confirmed.length, gone: gone.map(({ key }) => key), byStep };
}
