import type { MeetAnswer } from '../../reason/reach';
import { not } from '../../reason/solve/formula';
import { asExcepting } from '../../rules/excepting';
import type { Rule } from '../../rules/rule';
import { isSame } from '../../rules/same';
import { treeWords } from '../../rules/sentence';
import { type AuditContext, evidenceOf, type RuleFlow } from '../context';
import { discards, placesOf, rejects, takesAway } from '../destinations';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { rewrite, withoutRule } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * `exception-bypassed`: `a` takes mail away from the inbox and exempts some of it; another rule takes some of the
 * exempt mail away anyway: it files, discards, rejects or redirects it, and it does not reach the inbox. Rules with the
 * same destination and no exception at all are `exception-uneven` instead. Two rules that divide the same mail between
 * them, one with a test and one without, bypass nothing.
 */
export function bypassedExceptions(context: AuditContext): Finding[] {
  const { each, chain } = context;
  const rules = context.rules.map(excepting);
  const taking = rules.filter(({ entry }) => takesAway(entry));
  return each(taking, (a) => {
    return a.entry.unless.length === 0 ? [] : each(meeting(context, a, taking), (b) => pairOf(a, b));
  });

  function pairOf(a: RuleFlow, b: RuleFlow): Finding[] {
    const [first, second] = [a.entry, b.entry];
    if (second.unless.length === 0 && sameDestination(first, second)) return [];
    if (isOtherHalf(context, a, b)) return [];
    const evidence = evidenceOf(context, (body) =>
      body.exempt(first).and(body.at(b.place).fired).without(body.inInbox),
    );
    if (!evidence) return [];
    const count = evidence.messages.length;
    const does = discards(second) ? 'discards' : rejects(second) ? 'rejects' : 'takes away';
    const unless = [...second.unless, ...first.unless];
    const title = REPAIRS['same exceptions'](second.name, first.name);
    return [
      {
        key: `exception-bypassed ${first.id} ${second.id}`,
        kind: 'exception-bypassed',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: discards(second) || rejects(second) ? 'lost' : 'misplaced',
        claim: CLAIMS['exception-bypassed'](first.name, second.name, does, count),
        ...evidence,
        strength: null,
        repairs: [rewrite(chain, second, { ...second, unless }, title), ...withoutRule(chain, second)],
      },
    ];
  }
}

/** A rule with everything that it negates as exceptions. */
const excepting = (rule: RuleFlow): RuleFlow => ({ ...rule, entry: asExcepting(rule.entry) });

/** Whether all mail of the second rule is what the first one tests for and exempts. */
function isOtherHalf({ questions }: AuditContext, a: RuleFlow, b: RuleFlow): boolean {
  const exempted = questions.formulas.maybeFormula({
    kind: 'all',
    children: [a.entry.tests, { kind: 'any', children: a.entry.unless }],
  });
  if (exempted === null) return false;
  return questions.maybeMeet('pairs', [questions.condition(b.place), not(exempted)], null)?.answer === 'impossible';
}

/**
 * `exception-uneven`: two rules with the same destination, of which only one has an exception, and mail that the
 * exception exempts from one rule and the other sends to that destination.
 */
export function unevenExceptions(context: AuditContext): Finding[] {
  const { each, chain } = context;
  const rules = context.rules.map(excepting);
  const open = rules.filter(({ entry }) => entry.unless.length === 0);
  return each(rules, (a) => {
    return a.entry.unless.length === 0 ? [] : each(meeting(context, a, open), (b) => pairOf(a, b));
  });

  function pairOf(a: RuleFlow, b: RuleFlow): Finding[] {
    const [first, second] = [a.entry, b.entry];
    if (!sameDestination(first, second)) return [];
    const evidence = evidenceOf(context, (body) => body.exempt(first).and(body.at(b.place).fired));
    if (!evidence) return [];
    const count = evidence.messages.length;
    const unless = first.unless;
    const title = REPAIRS['same exceptions'](second.name, first.name);
    return [
      {
        key: `exception-uneven ${first.id} ${second.id}`,
        kind: 'exception-uneven',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: discards(second) ? 'lost' : 'misplaced',
        claim: CLAIMS['exception-uneven'](first.name, second.name, count),
        ...evidence,
        strength: null,
        repairs: [
          rewrite(chain, second, { ...second, unless }, title),
          rewrite(chain, first, { ...first, unless: [] }, REPAIRS['no exceptions'](first.name)),
          ...withoutRule(chain, second),
        ],
      },
    ];
  }
}

/** Other rules that act on some stored or example message that is exempt from this one. */
function meeting({ stored, madeUp }: AuditContext, a: RuleFlow, among: readonly RuleFlow[]): RuleFlow[] {
  const exempt = [stored, madeUp].map((body) => ({ body, messages: body.exempt(a.entry) }));
  const some = exempt.filter(({ messages }) => !messages.isEmpty());
  return among.filter(({ place }) => {
    return place !== a.place && some.some(({ body, messages }) => messages.meets(body.at(place).fired));
  });
}

/** Both rules have the same destinations, and at least one. */
export function sameDestination(a: Rule, b: Rule): boolean {
  const places = [...placesOf(a)].sort();
  return places.length > 0 && isSame(places, [...placesOf(b)].sort());
}

/**
 * `exception-void`: given that the tests of its rule match, an exception never applies, or always does; proved. If
 * stored mail refutes it, nothing is stated.
 */
export function voidExceptions({ each, chain, rules, refuting, questions }: AuditContext): Finding[] {
  return each(rules.map(excepting), ({ entry }) =>
    entry.unless.flatMap((exception, index): Finding[] => {
      const { formulas } = questions;
      const [tests, exempts] = [formulas.maybeFormula(entry.tests), formulas.maybeFormula(exception)];
      if (tests === null || exempts === null) return [];
      const cannot = (wanted: readonly number[], shows: (body: MailBody) => boolean) =>
        refuting.some(shows) ? null : maybeProof(questions.maybeMeet('parts', wanted, null));
      const never = cannot([tests, exempts], (body) => body.holding(entry.tests).meets(body.holding(exception)));
      const always =
        !never &&
        cannot([tests, not(exempts)], (body) => !body.holding(entry.tests).without(body.holding(exception)).isEmpty());
      // If the tests never match, that is the finding to state.
      const proof = never ?? always;
      if (!proof || (never && maybeProof(questions.maybeMeet('parts', [tests], null)))) return [];
      const words = treeWords(exception);
      const unless = entry.unless.filter((_, at) => at !== index);
      const title = REPAIRS['without exception'](entry.name, words);
      return [
        {
          key: `exception-void ${entry.id} ${index}`,
          kind: 'exception-void',
          rules: [entry.id],
          certainty: 'proved',
          assumes: proof.assumes,
          consequence: always ? 'misplaced' : 'clutter',
          claim: CLAIMS['exception-void'](entry.name, words, never ? 'never' : 'always'),
          messages: [],
          witness: null,
          strength: null,
          repairs: [rewrite(chain, entry, { ...entry, unless }, title)],
        },
      ];
    }),
  );
}

const maybeProof = (answer: MeetAnswer | null) => (answer?.answer === 'impossible' ? answer : null);
