import { profileOf } from '../../rules/profile';
import type { Rule } from '../../rules/rule';
import { type AuditContext, evidenceOf, type RuleFlow } from '../context';
import { disagree, discards, rejects } from '../destinations';
import type { Finding } from '../finding';
import { exemptingRule, otherEnding, repair, rewrite, switchOff } from '../repairs';
import { CLAIMS, type Conflict, REPAIRS } from '../wording';
import type { OverlapPair } from './overlap';

/**
 * `runs-on`: both rules act on a message, since the first continues, and their actions conflict: two folders, filed and
 * discarded, or filed and rejected.
 */
export function runsOn(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  const { each, chain } = context;
  const pairwise = each(pairs, ({ a, b }) => {
    if (!disagree(a.entry, b.entry)) return [];
    const what = conflictOf(a.entry, b.entry);
    // Where every rule acts, a message may be in several places, and no rule lets later ones run.
    const isEach = profileOf(chain)?.ending === 'all';
    if (isEach && what === 'file twice') return [];
    // Of thousands of pairs few act on one message.
    const isShown = [context.stored, context.madeUp].some(({ at }) => at(a.place).fired.meets(at(b.place).fired));
    const evidence = isShown && evidenceOf(context, (body) => body.at(a.place).fired.and(body.at(b.place).fired));
    if (!evidence) return [];
    const count = evidence.messages.length;
    const [first, second] = [a.entry, b.entry];
    return [
      {
        key: `runs-on ${first.id} ${second.id}`,
        kind: 'runs-on',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: 'misplaced',
        claim: CLAIMS[isEach ? 'runs-on each' : 'runs-on'](first.name, second.name, what, count),
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
  return [...pairwise, ...each(context.rules, (rule) => withItself(context, rule))];
}

/** A rule that files and discards: discarding only cancels the implicit keep (RFC 5228 section 4.4). */
function withItself({ chain }: AuditContext, { entry, fired }: RuleFlow): Finding[] {
  const isFiled = entry.actions.some(({ action }) => action === 'fileinto' || action === 'keep');
  if (!discards(entry) || !isFiled) return [];
  const only = (kept: (action: string) => boolean) => ({
    ...entry,
    actions: entry.actions.filter(({ action }) => kept(action)),
  });
  return [
    {
      key: `runs-on ${entry.id}`,
      kind: 'runs-on',
      rules: [entry.id],
      certainty: 'proved',
      consequence: 'misplaced',
      claim: CLAIMS['runs-on itself'](entry.name),
      messages: [...fired.members()],
      witness: null,
      strength: null,
      repairs: [
        rewrite(
          chain,
          entry,
          only((action) => action !== 'discard'),
          REPAIRS['only file'](entry.name),
        ),
        rewrite(
          chain,
          entry,
          only((action) => !/^(fileinto|keep)$/.test(action)),
          REPAIRS['only discard'](entry.name),
        ),
      ],
    },
  ];
}

/** How two rules conflict. */
function conflictOf(first: Rule, second: Rule): Conflict {
  const hasRejection = rejects(first) || rejects(second);
  if (discards(first) !== discards(second)) return hasRejection ? 'reject and discard' : 'file and discard';
  return rejects(first) === rejects(second) ? 'file twice' : 'file and reject';
}
