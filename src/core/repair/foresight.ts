import type { Finding } from '../audit/finding';
import { isBorneOut, withoutRepeated } from '../audit/grouping';

/** What a change does to the findings. */
export interface Foresight {
  /** Findings that would no longer be stated. */
  readonly ended: readonly Finding[];
  /** Findings that would be stated, and are not now. */
  readonly brought: readonly Finding[];
}

/**
 * The findings that a change would end and bring, of those that stored mail or a proof bears out. That two rules hold for the
 * same mail is no fault, and is left out.
 */
export function foresee(before: readonly Finding[], after: readonly Finding[]): Foresight {
  const [now, then] = [weighty(before), weighty(after)];
  const without = (some: readonly Finding[], others: readonly Finding[]) => {
    const keys = new Set(others.map(({ key }) => key));
    return some.filter(({ key }) => !keys.has(key));
  };
  return { ended: without(now, then), brought: without(then, now) };
}

const weighty = (findings: readonly Finding[]): Finding[] =>
  withoutRepeated(findings).filter((finding) => finding.kind !== 'overlap' && isBorneOut(finding));
