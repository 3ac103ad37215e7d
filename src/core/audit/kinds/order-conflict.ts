import type { Witness } from '../../reason/witness';
import { applyEdit, type Edit, moveBefore } from '../../rules/edit';
import type { Chain, Rule } from '../../rules/rule';
import type { AuditContext, Evidence } from '../context';
import { discards, onlyMarks } from '../destinations';
import { type Consequence, type Finding, madeUpOf } from '../finding';
import type { MailBody } from '../known-mail';
import { speaksOf } from '../leaves';
import type { MadeUpBody } from '../made-up';
import { exemptingRule, otherEnding, repair } from '../repairs';
import { CLAIMS } from '../wording';
import type { OverlapPair } from './overlap';

interface Candidate extends OverlapPair {
  readonly edit: Edit;
  readonly moved: Chain;
}

/**
 * `order-conflict`: of the messages that match both rules, some have another fate when `b` is moved directly before
 * `a`. A conflict that neither a known message shows nor the form of the rules excludes is searched for while the budget
 * allows: first among messages that a third rule stops between the two, then by comparing the chains.
 */
export function orderConflicts(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  const { each, chain, questions, madeUp, orders } = context;
  const candidates = each(pairs, (pair): Candidate[] => {
    const { a, b, messages } = pair;
    if (orders.at(a.place, b.place) === 'alike') return [];
    const [one, other] = [madeUp.at(a.place).held, madeUp.at(b.place).held];
    const isShown = !messages.isEmpty() || madeUp.kept.meets(one.and(other));
    const isSearched = questions.hasLeft('orderComparisons') || one.meets(other);
    if (!isShown && (!isSearched || !questions.takeOrder())) return [];
    const edit = moveBefore(chain, b.entry.id, a.entry.id);
    const moved = edit && applyEdit(chain, edit);
    return edit && moved?.ok ? [{ ...pair, edit, moved: moved.chain }] : [];
  });
  const shown = new Map<Candidate, Evidence>();
  const stopped = new Map<Candidate, readonly Witness[]>();
  each(candidates, (candidate) => {
    const found = shownBy(context, madeUp, candidate);
    if (found) shown.set(candidate, found);
    else if (mayConflict(context, candidate)) stopped.set(candidate, stoppedBetween(context, candidate));
    return [];
  });
  const more = stopped.size > 0 ? context.withExamples([...stopped.values()].flat()) : madeUp;
  return each(candidates, (candidate) => {
    const { a, b, edit, messages: both } = candidate;
    const [first, second] = [a.entry, b.entry];
    const isOpen = stopped.has(candidate);
    const evidence =
      shown.get(candidate) ??
      (isOpen ? (shownBy(context, more, candidate) ?? maybeCompared(context, candidate)) : null);
    if (!evidence) return [];
    orders.set(a.place, b.place, 'conflict');
    const { messages, witness } = evidence;
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
        ...((speaksOf(first, second) || speaksOf(second, first)) && { isNamed: true }),
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

/** Known messages that match both and are treated differently. */
function shownBy({ stored }: AuditContext, madeUp: MadeUpBody, { a, b, moved }: Candidate): Evidence | null {
  const bothIn = (body: MailBody) => body.at(a.place).held.and(body.at(b.place).held);
  const both = bothIn(stored);
  const messages = stored.canRun(moved) ? stored.changedBy(moved, both) : both.without(both);
  if (!messages.isEmpty()) return { messages: [...messages.members()], witness: null };
  if (!madeUp.canRun(moved)) return null;
  const witness = madeUp.maybeFirst(bothIn(madeUp), madeUp.differsUnder(moved));
  return witness && { messages: [], witness: madeUpOf(witness) };
}

function mayConflict(context: AuditContext, { a, b }: Candidate): boolean {
  if (!context.questions.hasLeft('orderComparisons')) return false;
  const isNever = neverReached(context, a.place, b.place);
  if (isNever) context.orders.set(a.place, b.place, 'alike');
  return !isNever;
}

/** By comparing the chains for messages that match both. */
function maybeCompared({ questions, orders }: AuditContext, { a, b, moved }: Candidate): Evidence | null {
  if (!questions.takeOrderComparison()) return null;
  const answer = questions.maybeCompare(moved, [a.place, b.place]);
  if (answer?.verdict === 'equivalent') orders.set(a.place, b.place, 'alike');
  return answer?.verdict === 'different' ? { messages: [], witness: madeUpOf(answer.witness) } : null;
}

/** Whether no message that matches both reaches the first: then neither acts, in any order. */
function neverReached({ chain, questions }: AuditContext, a: number, b: number): boolean {
  const first = chain.entries[a];
  if (first?.kind !== 'rule' || first.link !== 'always') return false;
  return questions.maybeMeet('pairs', [questions.condition(a), questions.condition(b)], a)?.answer === 'impossible';
}

/** The most rules between two that are tried. */
const MOST_BETWEEN = 6;

/** Messages that a rule between the two stops before the second. */
function stoppedBetween({ rules, questions }: AuditContext, { a, b }: Candidate): Witness[] {
  const pair = [questions.condition(a.place), questions.condition(b.place)];
  const between = rules.filter(({ place, entry }) => place > a.place && place < b.place && entry.ending === 'stop');
  return between.slice(0, MOST_BETWEEN).flatMap(({ place }) => {
    const answer = questions.maybeMeet('pairs', [...pair, questions.condition(place)], a.place);
    return answer?.answer === 'possible' ? [answer.witness] : [];
  });
}

function consequenceOf(a: Rule, b: Rule): Consequence {
  // If the first files and the second would discard, nothing is lost now.
  if (discards(a) && !discards(b)) return 'lost';
  return onlyMarks(a) || onlyMarks(b) ? 'clutter' : 'misplaced';
}
