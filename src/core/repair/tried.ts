import { CONSEQUENCES, type Statement } from '../audit/finding';
import type { Foresight } from './foresight';

/** What a repair was seen to do when the chain was audited with it. */
export interface Tried {
  /** The finding that it answers is no longer stated, nor is the same said of these rules the other way round. */
  readonly ends: boolean;
  /** Findings that it brings whose consequence is worse than that of the finding it answers. */
  readonly worse: readonly Statement[];
}

/** `after`: all findings on the chain with the repair made. */
export function tried(finding: Statement, after: readonly Statement[], { brought }: Foresight): Tried {
  const rank = CONSEQUENCES.indexOf(finding.consequence);
  return {
    ends: !after.some((other) => other.key === finding.key || isSameSaid(finding, other)),
    worse: brought.filter(({ consequence }) => CONSEQUENCES.indexOf(consequence) < rank),
  };
}

const isSameSaid = (a: Statement, b: Statement): boolean =>
  a.kind === b.kind && a.rules.length > 1 && a.rules.toSorted().join() === b.rules.toSorted().join();

/**
 * Repairs in the order in which they are offered: first those that end the finding and bring nothing worse, then those of which
 * nothing is known yet, then those that end it at a price; each kind in the order given.
 */
export function inOrderOfOffer<T>(
  repairs: readonly T[],
  triedOf: (repair: T) => { readonly ends: boolean; readonly worse: readonly unknown[] } | null,
): T[] {
  const rank = (repair: T): number => {
    const known = triedOf(repair);
    if (!known) return 1;
    if (!known.ends) return 3;
    return known.worse.length === 0 ? 0 : 2;
  };
  return repairs.toSorted((a, b) => rank(a) - rank(b));
}
