import type { Bitmap } from '../../flow/bitmap';
import { inRunOf } from '../../rules/edit';
import { elementAt } from '../../text/lookup';
import { type AuditContext, type Evidence, evidenceOf, isElse, type RuleFlow } from '../context';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { exemptingRule } from '../repairs';
import { CLAIMS } from '../wording';

/** Messages in a bitmap that take as much memory as one listed message, over all findings of a pair. */
const PER_BITMAP = 160;

export interface OverlapPair {
  readonly a: RuleFlow;
  readonly b: RuleFlow;
  /** Stored messages that match both, reached or not. */
  readonly messages: Bitmap;
}

/**
 * All overlapping pairs of rules, `a` before `b`. An unconditional last branch matches whenever the other rules of its
 * run do, which is intended and no overlap. Pairs beyond the budget are left out.
 */
export function overlapPairs(context: AuditContext): OverlapPair[] {
  const { each, rules, chain, stored, madeUp, questions } = context;
  const least = stored.flow.count / PER_BITMAP;
  const heldIn = (body: MailBody) => rules.map(({ place }) => body.at(place).held);
  const [here, there] = [heldIn(stored), heldIn(madeUp)];
  const meet = (held: readonly Bitmap[], a: number, b: number) => elementAt(held, a).meets(elementAt(held, b));
  return each([...rules.entries()], ([first, a]) => {
    const found: OverlapPair[] = [];
    for (let second = first + 1; second < rules.length; second++) {
      const b = elementAt(rules, second);
      const common = meet(here, first, second);
      if (!common && !meet(there, first, second)) continue;
      if (isElse(b) && inRunOf(chain.entries, a.place, b.place)) continue;
      if (!questions.mayTakeOverlap(least)) break;
      const messages = common ? a.held.and(b.held) : stored.flow.fates.none;
      if (questions.takeOverlap(Math.max(messages.count(), least))) found.push({ a, b, messages });
    }
    return found;
  });
}

/** `overlap`: some message matches both rules. Harmless alone. */
export function overlaps(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  const all = context.questions.budget.overlapsByThemselves;
  return context.each(pairs, (pair) => {
    const { a, b } = pair;
    const evidence = all || !pair.messages.isEmpty() ? evidenceOfOverlap(context, pair) : null;
    if (!evidence) return [];
    const { messages, witness } = evidence;
    const finding: Finding = {
      key: `overlap ${a.entry.id} ${b.entry.id}`,
      kind: 'overlap',
      rules: [a.entry.id, b.entry.id],
      certainty: 'shown',
      consequence: 'clutter',
      claim: CLAIMS.overlap(a.entry.name, b.entry.name, messages.length),
      messages,
      witness,
      strength: null,
      repairs: [...exemptingRule(context.chain, b.entry, a.entry), ...exemptingRule(context.chain, a.entry, b.entry)],
    };
    return [finding];
  });
}

function evidenceOfOverlap(context: AuditContext, { a, b, messages }: OverlapPair): Evidence | null {
  if (!messages.isEmpty()) return { messages: [...messages.members()], witness: null };
  return evidenceOf(context, (body) => body.at(a.place).held.and(body.at(b.place).held));
}
