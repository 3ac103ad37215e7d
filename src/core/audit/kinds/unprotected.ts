import type { Bitmap } from '../../flow/bitmap';
import type { AuditContext, RuleFlow } from '../context';
import { discards, foldersOf, rejects } from '../destinations';
import type { Finding } from '../finding';
import { exemptingOwn, exemptingSenders, filed, inInboxToo, withoutRule } from '../repairs';
import { fewSenders } from '../senders';
import { CLAIMS, REASONS, type Reason, STRENGTHS } from '../wording';
import { lostBy } from './loss';

/** With only one or two, the user may still read them. */
const LEAST_HIDDEN = 3;

/**
 * `unprotected`: a rule discards or rejects mail that the user values, or files at least three such messages unseen,
 * and has no exception for it. Valued mail is answered or flagged, or from people the user has written to; of discarded
 * or rejected mail also what went to the user alone and by no mailing list.
 */
export function unprotected(context: AuditContext): Finding[] {
  const { mail, stored } = context;
  if (mail.mail.messages.length === 0) return [];
  return context.each(context.rules, (rule) => {
    const loses = discards(rule.entry) || rejects(rule.entry);
    const lost = (loses ? lostBy(stored, rule.place) : stored.flow.fates.none)
      .and(mail.known.or(mail.marked).or(mail.alone))
      .without(mail.sent);
    if (!lost.isEmpty()) return [findingOf(context, rule, lost, 'lost')];
    const hidden = hiddenBy(context, rule).and(mail.known.or(mail.marked));
    return hidden.count() < LEAST_HIDDEN ? [] : [findingOf(context, rule, hidden, 'unseen')];
  });
}

/** It filed them, outside the inbox, unseen. */
export function hiddenBy({ mail, stored }: AuditContext, { entry, fired }: RuleFlow): Bitmap {
  const { none } = stored.flow.fates;
  if (!mail.marksKnown || foldersOf(entry).length === 0) return none;
  return fired.and(mail.unseen).without(stored.inInbox).without(mail.sent);
}

function findingOf(context: AuditContext, rule: RuleFlow, valued: Bitmap, consequence: 'lost' | 'unseen'): Finding {
  const { chain, mail } = context;
  const { entry, fired } = rule;
  const count = valued.count();
  const why = [
    [mail.known, REASONS.known],
    [mail.marked, REASONS.marked],
    [mail.alone, REASONS.alone],
  ] as const;
  const reasons = why.flatMap(([bitmap, words]): Reason[] => {
    const part = valued.and(bitmap).count();
    return part > 0 ? [[part, words]] : [];
  });
  const does = consequence === 'lost' ? 'loses' : 'files unseen';
  return {
    key: `unprotected ${entry.id}`,
    kind: 'unprotected',
    rules: [entry.id],
    certainty: 'observed',
    consequence,
    claim: CLAIMS.unprotected(entry.name, does, count, reasons),
    messages: [...valued.members()],
    witness: null,
    strength: { part: count, whole: fired.count(), words: STRENGTHS.unprotected },
    repairs: [
      ...exemptingSenders(chain, entry, fewSenders(valued, mail)),
      ...exemptingOwn(chain, entry, valued.meets(mail.alone) ? [...mail.mail.own] : []),
      ...(consequence === 'lost' ? filed(chain, entry) : inInboxToo(chain, entry)),
      ...withoutRule(chain, entry),
    ],
  };
}
