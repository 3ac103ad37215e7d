import type { Rule } from '../../rules/rule';
import { isSame } from '../../rules/same';
import { type AuditContext, evidenceOf, type RuleFlow } from '../context';
import { placesOf } from '../destinations';
import type { Finding } from '../finding';
import { rewrite, withoutRule } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * `exception-uneven`: two rules with the same destination, of which only one has an exception, and mail that the exception
 * keeps from the one and that the other takes there all the same.
 */
export function unevenExceptions(context: AuditContext): Finding[] {
  const { each, chain, rules } = context;
  return each(rules, (a) => (a.entry.unless.length === 0 ? [] : each(rules, (b) => pairOf(a, b))));

  function pairOf(a: RuleFlow, b: RuleFlow): Finding[] {
    const [first, second] = [a.entry, b.entry];
    if (a === b || !meets(context, a, b) || second.unless.length > 0 || !sameDestination(first, second)) return [];
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
        consequence: placesOf(second).has('drop') ? 'lost' : 'misplaced',
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

/** Whether any message at hand that is exempt from the one fires the other. */
export function meets({ stored, madeUp }: AuditContext, a: RuleFlow, b: RuleFlow): boolean {
  return [stored, madeUp].some((body) => body.exempt(a.entry).meets(body.at(b.place).fired));
}

/** Both mean mail for the same places, and for some. */
export function sameDestination(a: Rule, b: Rule): boolean {
  const places = [...placesOf(a)].sort();
  return places.length > 0 && isSame(places, [...placesOf(b)].sort());
}
