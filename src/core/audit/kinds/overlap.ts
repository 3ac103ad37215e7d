import { inRunOf } from '../../rules/edit';
import { type AuditContext, type Evidence, evidenceOf, isElse, type RuleFlow } from '../context';
import { counted } from '../edits';
import type { Finding } from '../finding';

export interface OverlapPair {
  readonly a: RuleFlow;
  readonly b: RuleFlow;
  /** Messages for which both hold, reached or not. */
  readonly evidence: Evidence;
}

/**
 * All pairs of rules that some message makes both hold; `a` comes before `b`. An unconditional last branch holds
 * whenever its own run's other rules do: that is what it is for, and no overlap.
 */
export function overlapPairs(context: AuditContext): OverlapPair[] {
  const { rules, chain, stored, madeUp } = context;
  return rules.flatMap((a, index) =>
    rules.slice(index + 1).flatMap((b) => {
      if (isElse(b) && inRunOf(chain.entries, a.place, b.place)) return [];
      const meets = [stored, madeUp].some((body) => body.at(a.place).held.meets(body.at(b.place).held));
      const evidence = meets ? evidenceOf(context, (body) => body.at(a.place).held.and(body.at(b.place).held)) : null;
      return evidence ? [{ a, b, evidence }] : [];
    }),
  );
}

/** `overlap`: some message makes both rules hold. Harmless by itself. */
export function overlaps(pairs: readonly OverlapPair[]): Finding[] {
  return pairs.map(({ a, b, evidence }) => {
    const { messages, witness } = evidence;
    return {
      key: `overlap ${a.entry.id} ${b.entry.id}`,
      kind: 'overlap',
      rules: [a.entry.id, b.entry.id],
      certainty: 'shown',
      consequence: 'clutter',
      claim: `“${a.entry.name}” and “${b.entry.name}” both hold for ${
        witness ? 'mail such as the message made up here' : counted(messages.length, 'stored message')
      }.`,
      messages,
      witness,
      strength: null,
      repairs: [],
    };
  });
}
