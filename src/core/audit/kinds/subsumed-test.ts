import { PROOF } from '../../reason/solve/assumptions';
import { type Formula, not } from '../../reason/solve/formula';
import { applyEdits } from '../../rules/edit';
import { type Chain, conditionOf, type Rule } from '../../rules/rule';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { type Part, partsOf } from '../parts';
import { rewrite } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * In longer chains, only parts covered by other tests of the same rule are found, not those covered by earlier rules.
 */
const SHORT_CHAIN = 150;

/**
 * `subsumed-test`: a test, key or exception of a rule can be left out without changing any fate; proved: no message
 * that reaches the rule matches with it and not without it, or the reverse.
 */
export function subsumedTests(context: AuditContext): Finding[] {
  return context.each(context.rules, (rule) =>
    partsOf(rule.entry).flatMap((part) => findingOf(context, rule, part) ?? []),
  );
}

function findingOf(context: AuditContext, { entry, place }: RuleFlow, part: Part): Finding | null {
  const { chain, questions, refuting } = context;
  const { formulas } = questions;
  const [now, then] = [conditionOf(entry), conditionOf(part.without)].map((tree) => formulas.maybeFormula(tree));
  if (now === undefined || then === undefined || now === null || then === null) return null;
  if (refuting.some((body) => showsNeed(body, entry, part, place))) return null;
  const proof = isSurelyNeeded(context, now, then) ? null : maybeNeedless(context, place, formulas.differ(now, then));
  if (!proof) return null;
  const { words } = part;
  const repair = rewrite(chain, entry, part.without, REPAIRS['leave out'](entry.name, words));
  // If a stored message breaks the assumptions of the proof, nothing is stated.
  const after = applyEdits(chain, repair.edits);
  const all = (body: MailBody) => body.flow.fates.traffic;
  const changes = (body: MailBody, changed: Chain) =>
    body.knows(changed) && !body.changedBy(changed, all(body)).isEmpty();
  if (!after.ok || refuting.some((body) => changes(body, after.chain))) return null;
  return {
    key: `subsumed-test ${entry.id} ${part.id}`,
    kind: 'subsumed-test',
    rules: [entry.id],
    certainty: 'proved',
    assumes: proof.assumes,
    consequence: 'clutter',
    claim: CLAIMS['subsumed-test'](entry.name, words),
    messages: [],
    witness: null,
    strength: null,
    repairs: [repair],
  };
}

/** Whether a known message reaches the rule and shows a difference; false if its tests were never evaluated. */
function showsNeed(body: MailBody, entry: Rule, { without }: Part, place: number): boolean {
  const [now, then] = [conditionOf(entry), conditionOf(without)];
  if (!body.knowsTests(then)) return false;
  return body.holding(now).difference(body.holding(then)).meets(body.at(place).reached);
}

/** Whether the form of the tests tells that messages match with the part and not without it, or the reverse. */
const isSurelyNeeded = ({ chain, questions: { formulas } }: AuditContext, now: Formula, then: Formula): boolean =>
  chain.entries.length > SHORT_CHAIN &&
  (formulas.settle(now, not(then)) === 'possible' || formulas.settle(then, not(now)) === 'possible');

/** The proof that no message that reaches the rule shows a difference. */
function maybeNeedless({ chain, questions }: AuditContext, place: number, difference: Formula) {
  const where = chain.entries.length <= SHORT_CHAIN ? place : null;
  const answer = questions.maybeMeet('parts', [difference], where, PROOF);
  return answer?.answer === 'impossible' ? answer : null;
}
