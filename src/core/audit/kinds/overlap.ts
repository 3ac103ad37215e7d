import type { Bitmap } from '../../flow/bitmap';
import { inRunOf } from '../../rules/edit';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding } from '../finding';

export interface OverlapPair {
  readonly a: RuleFlow;
  readonly b: RuleFlow;
  /** Messages for which both hold, reached or not. */
  readonly both: Bitmap;
}

/**
 * All pairs of rules that some stored message makes both hold; `a` comes before `b`. An unconditional last branch holds
 * whenever its own run's other rules do: that is what it is for, and no overlap.
 */
export function overlapPairs({ rules, chain }: AuditContext): OverlapPair[] {
  const holding = rules.filter(({ held }) => !held.isEmpty());
  return holding.flatMap((a, index) =>
    holding
      .slice(index + 1)
      .filter((b) => a.held.meets(b.held) && !(isElse(b) && inRunOf(chain.entries, a.place, b.place)))
      .map((b) => ({ a, b, both: a.held.and(b.held) })),
  );
}

function isElse({ entry }: RuleFlow): boolean {
  const { tests, unless, link } = entry;
  return link === 'otherwise' && tests.kind === 'all' && tests.children.length === 0 && unless.length === 0;
}

/** `overlap`: some message makes both rules hold. Harmless by itself. */
export function overlaps(pairs: readonly OverlapPair[]): Finding[] {
  return pairs.map(({ a, b, both }) => {
    const count = both.count();
    return {
      key: `overlap ${a.entry.id} ${b.entry.id}`,
      kind: 'overlap',
      rules: [a.entry.id, b.entry.id],
      certainty: 'observed',
      consequence: 'clutter',
      claim: `“${a.entry.name}” and “${b.entry.name}” both hold for ${count} stored ${count === 1 ? 'message' : 'messages'}.`,
      messages: [...both.members()],
      repairs: [],
    };
  });
}
