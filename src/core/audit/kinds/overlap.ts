import type { Bitmap } from '../../flow/bitmap';
import { elementAt } from '../../text/lookup';
import { type AuditContext, type Evidence, evidenceOf, forNeighbours, isLastBranch, type RuleFlow } from '../context';
import type { Finding } from '../finding';
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
 * All overlapping pairs of rules, `a` before `b`, those first that stored mail or a kept probe shows, then neighbours. An unconditional
 * last branch matches whenever the other rules of its run do, which is intended and no overlap. Pairs beyond the budget
 * are left out. `isWanted`, given the ids of two rules, restricts them further.
 */
export function overlapPairs(
  context: AuditContext,
  isWanted: (a: string, b: string) => boolean = () => true,
): OverlapPair[] {
  const { rules, chain, stored, madeUp, questions, pairs } = context;
  const least = stored.flow.count / PER_BITMAP;
  const held = rules.map(({ place }) => stored.at(place).held);
  const kept = rules.map(({ place }) => madeUp.at(place).held.and(madeUp.kept));
  const hasKept = !madeUp.kept.isEmpty();
  const isShown = (first: number, second: number) =>
    elementAt(held, first).meets(elementAt(held, second)) ||
    (hasKept && elementAt(kept, first).meets(elementAt(kept, second)));
  const found: OverlapPair[] = [];
  const add = (a: RuleFlow, b: RuleFlow, messages: Bitmap) => {
    if (questions.takeOverlap(Math.max(messages.count(), least))) found.push({ a, b, messages });
  };
  forNeighbours(rules, (a, b, first, second) => {
    if (!isWanted(a.entry.id, b.entry.id) || !isShown(first, second) || isLastBranch(chain, a, b)) return true;
    pairs.set(first, second, 'possible');
    add(a, b, a.held.and(b.held));
    return true;
  });
  forNeighbours(rules, (a, b, first, second) => {
    if (pairs.at(first, second) !== 'possible' || !isWanted(a.entry.id, b.entry.id)) return true;
    if (isShown(first, second)) return true;
    if (!questions.mayTakeOverlap(least)) return false;
    add(a, b, stored.flow.fates.none);
    return true;
  });
  return found.sort((one, other) => one.a.place - other.a.place || one.b.place - other.b.place);
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
