import { applyEdit, moveBefore } from '../../rules/edit';
import { isFurther } from '../../rules/further-action-nodes';
import { type Chain, conditionOf, looksAtFlags, type Rule } from '../../rules/rule';
import { isSame } from '../../rules/same';
import { type AuditContext, type Evidence, evidenceOf } from '../context';
import { discards, onlyMarks } from '../destinations';
import { type Consequence, type Finding, madeUpOf } from '../finding';
import { exemptingRule, otherEnding, repair } from '../repairs';
import { CLAIMS } from '../wording';
import type { OverlapPair } from './overlap';

/**
 * `order-conflict`: of the messages that match both rules, some have another fate when `b` is moved directly before
 * `a`.
 */
export function orderConflicts(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  const { each, chain } = context;
  return each(pairs, ({ a, b, messages: both }) => {
    if (both.isEmpty() && !context.questions.takeOrder()) return [];
    if (!orderMatters(chain, a.place, b.place)) return [];
    const [first, second] = [a.entry, b.entry];
    const edit = moveBefore(chain, second.id, first.id);
    const moved = edit && applyEdit(chain, edit);
    if (!moved?.ok) return [];
    const changed = conflictOf(context, moved.chain, a.place, b.place);
    if (!changed) return [];
    const { messages, witness } = changed;
    return [
      {
        key: `order-conflict ${first.id} ${second.id}`,
        kind: 'order-conflict',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: consequenceOf(first, second),
        claim: CLAIMS['order-conflict'](first.name, second.name, messages.length, both.count()),
        messages,
        witness,
        strength: null,
        repairs: [
          ...repair(chain, edit),
          ...exemptingRule(chain, first, second),
          ...exemptingRule(chain, second, first),
          ...repair(chain, otherEnding(first)),
        ],
      } satisfies Finding,
    ];
  });
}

/** A conflict that no known message shows is searched for while the budget allows comparing chains. */
function conflictOf(context: AuditContext, moved: Chain, a: number, b: number): Evidence | null {
  const found = evidenceOf(context, (body) => {
    const both = body.at(a).held.and(body.at(b).held);
    return both.isEmpty() || !body.canRun(moved) ? both.without(both) : body.changedBy(moved, both);
  });
  if (found || alwaysAlike(context.chain, a, b)) return found;
  if (!context.questions.hasLeft('comparisons')) {
    context.questions.unsearchedOrders++;
    return null;
  }
  if (neverReached(context, a, b)) return null;
  const answer = context.questions.maybeCompare(moved, [a, b]);
  return answer?.verdict === 'different' ? { messages: [], witness: madeUpOf(answer.witness) } : null;
}

/** Whether no message that matches both reaches the first: then neither acts, in any order. */
function neverReached({ chain, questions }: AuditContext, a: number, b: number): boolean {
  const first = chain.entries[a];
  if (first?.kind !== 'rule' || first.link !== 'always') return false;
  return questions.maybeMeet('pairs', [questions.condition(a), questions.condition(b)], a)?.answer === 'impossible';
}

function consequenceOf(a: Rule, b: Rule): Consequence {
  // If the first files and the second would discard, nothing is lost now.
  if (discards(a) && !discards(b)) return 'lost';
  return onlyMarks(a) || onlyMarks(b) ? 'clutter' : 'misplaced';
}

/**
 * Whether the order within a stretch of the chain can matter: without stops, links, flags and script blocks, actions
 * add up to the same fate in any order.
 */
export function orderMatters(chain: Chain, from: number, to: number): boolean {
  return chain.entries.slice(from, to + 1).some((entry) => {
    if (!entry.on) return false;
    if (entry.kind === 'script' || entry.ending === 'stop' || entry.link === 'otherwise') return true;
    if (looksAtFlags(conditionOf(entry))) return true;
    return entry.actions.some((action) => ('flags' in action && action.flags !== null) || isFurther(action));
  });
}

/**
 * Two rules that do the same and end alike: whichever comes first acts, and nothing between them acts on mail that
 * matches both.
 */
function alwaysAlike({ entries }: Chain, a: number, b: number): boolean {
  const [first, second] = [entries[a], entries[b]];
  return (
    first?.kind === 'rule' &&
    second?.kind === 'rule' &&
    first.link === 'always' &&
    second.link === 'always' &&
    first.ending === 'stop' &&
    second.ending === 'stop' &&
    !looksAtFlags(conditionOf(second)) &&
    isSame(first.actions, second.actions)
  );
}
