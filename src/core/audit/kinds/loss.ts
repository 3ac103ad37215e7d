import { type AuditContext, evidenceOf } from '../context';
import { discards, rejects } from '../destinations';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { filed, withoutRule } from '../repairs';
import { CLAIMS, STRENGTHS } from '../wording';

/** `loss`: a rule discards or rejects mail of which no copy is left, neither in a folder nor redirected. */
export function losses(context: AuditContext): Finding[] {
  return context.each(context.rules, (rule) => {
    const { entry, place } = rule;
    if (!discards(entry) && !rejects(entry)) return [];
    const evidence = evidenceOf(context, (body) => lostBy(body, place));
    if (!evidence) return [];
    const count = evidence.messages.length;
    const does = discards(entry) ? 'discards' : 'rejects';
    return [
      {
        key: `loss ${entry.id}`,
        kind: 'loss',
        rules: [entry.id],
        certainty: 'shown',
        consequence: 'lost',
        claim: CLAIMS.loss(entry.name, does, count),
        ...evidence,
        strength: count > 0 ? { part: count, whole: rule.fired.count(), words: STRENGTHS.loss } : null,
        repairs: [...filed(context.chain, entry), ...withoutRule(context.chain, entry)],
      } satisfies Finding,
    ];
  });
}

/** It acted on them, and they are delivered nowhere. */
export function lostBy({ flow, at }: MailBody, place: number) {
  const { fired } = at(place);
  return fired.isEmpty() ? fired : fired.and(flow.fates.dropped().or(flow.fates.rejected));
}
