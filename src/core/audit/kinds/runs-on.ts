import { type AuditContext, evidenceOf } from '../context';
import { disagree, drops, refuses } from '../destinations';
import type { Finding } from '../finding';
import { exemptingRule, otherEnding, repair, switchOff } from '../repairs';
import { CLAIMS } from '../wording';
import type { OverlapPair } from './overlap';

/**
 * `runs-on`: a message fires both rules, since the first lets later rules run, and what they do disagrees: two folders,
 * filed and dropped, or filed and refused.
 */
export function runsOn(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  const { each, chain } = context;
  return each(pairs, ({ a, b }) => {
    if (!disagree(a.entry, b.entry)) return [];
    const evidence = evidenceOf(context, (body) => body.at(a.place).fired.and(body.at(b.place).fired));
    if (!evidence) return [];
    const count = evidence.messages.length;
    const [first, second] = [a.entry, b.entry];
    const what =
      drops(first) !== drops(second)
        ? 'file and drop'
        : refuses(first) !== refuses(second)
          ? 'file and refuse'
          : 'file twice';
    return [
      {
        key: `runs-on ${first.id} ${second.id}`,
        kind: 'runs-on',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: 'misplaced',
        claim: CLAIMS['runs-on'](first.name, second.name, what, count),
        ...evidence,
        strength: null,
        repairs: [
          ...exemptingRule(chain, second, first),
          ...exemptingRule(chain, first, second),
          ...repair(chain, otherEnding(first)),
          ...repair(chain, switchOff(second.id)),
          ...repair(chain, switchOff(first.id)),
        ],
      } satisfies Finding,
    ];
  });
}
