import type { Statement } from '../audit/finding';
import { isConfirmed, withoutRepeated } from '../audit/grouping';
import { idsIn } from '../rules/edit';
import type { PlanStep } from './planned';

/** What the steps of a plan do to the confirmed findings. */
export interface Ended {
  readonly confirmed: number;
  /** Those that are gone once all steps are taken, with the index of the step that ends each; null if none does alone. */
  readonly gone: readonly { readonly key: string; readonly step: number | null }[];
}

/** `before` and `after`: all findings on the chain, and on the chain with the steps taken. */
export function endedBy(
  steps: readonly Pick<PlanStep, 'edits' | 'findings'>[],
  before: readonly Statement[],
  after: readonly Statement[],
): Ended {
  const left = new Set(withoutRepeated(after).flatMap((finding) => (isConfirmed(finding) ? finding.key : [])));
  const confirmed = withoutRepeated(before).filter(isConfirmed);
  const about = steps.map(({ edits }) => new Set(edits.flatMap(idsIn)));
  const gone = confirmed.flatMap(({ key, rules }) => {
    if (left.has(key)) return [];
    const own = steps.findIndex(({ findings }) => findings.includes(key));
    const step = own >= 0 ? own : about.findIndex((ids) => rules.some((id) => ids.has(id)));
    return [{ key, step: step < 0 ? null : step }];
  });
  return { confirmed: confirmed.length, gone };
}
