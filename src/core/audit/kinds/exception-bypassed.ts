import { type AuditContext, evidenceOf, type RuleFlow } from '../context';
import { drops, refuses, takesAway } from '../destinations';
import type { Finding } from '../finding';
import { rewrite, withoutRule } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';
import { meets, sameDestination } from './exception-uneven';

/**
 * `exception-bypassed`: `a` takes mail away from the inbox and exempts some of it; of that mail another rule takes some
 * away all the same: it files, drops, refuses or sends it on, and it does not reach the inbox. Rules with the same
 * destination and no exception at all are `exception-uneven` instead.
 */
export function bypassedExceptions(context: AuditContext): Finding[] {
  const { each, chain, rules } = context;
  return each(rules, (a) =>
    a.entry.unless.length === 0 || !takesAway(a.entry) ? [] : each(rules, (b) => pairOf(a, b)),
  );

  function pairOf(a: RuleFlow, b: RuleFlow): Finding[] {
    const [first, second] = [a.entry, b.entry];
    if (a === b || !meets(context, a, b) || !takesAway(second)) return [];
    if (second.unless.length === 0 && sameDestination(first, second)) return [];
    const evidence = evidenceOf(context, (body) =>
      body.exempt(first).and(body.at(b.place).fired).without(body.inInbox),
    );
    if (!evidence) return [];
    const count = evidence.messages.length;
    const does = drops(second) ? 'drops' : refuses(second) ? 'refuses' : 'takes away';
    const unless = [...second.unless, ...first.unless];
    const title = REPAIRS['same exceptions'](second.name, first.name);
    return [
      {
        key: `exception-bypassed ${first.id} ${second.id}`,
        kind: 'exception-bypassed',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: drops(second) || refuses(second) ? 'lost' : 'misplaced',
        claim: CLAIMS['exception-bypassed'](first.name, second.name, does, count),
        ...evidence,
        strength: null,
        repairs: [rewrite(chain, second, { ...second, unless }, title), ...withoutRule(chain, second)],
      },
    ];
  }
}
