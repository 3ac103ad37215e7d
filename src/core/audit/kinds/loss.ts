import { type AuditContext, evidenceOf } from '../context';
import { drops, refuses } from '../destinations';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { filed, withoutRule } from '../repairs';
import { CLAIMS, STRENGTHS } from '../wording';

/** `loss`: a rule drops or refuses mail of which no copy is left anywhere, neither in a folder nor sent on. */
export function losses(context: AuditContext): Finding[] {
  return context.each(context.rules, (rule) => {
    const { entry, place } = rule;
    if (!drops(entry) && !refuses(entry)) return [];
    const evidence = evidenceOf(context, (body) => lostBy(body, place));
    if (!evidence) return [];
    const count = evidence.messages.length;
    const does = drops(entry) ? 'drops' : 'refuses';
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

/** Fired by it and delivered nowhere. */
export function lostBy({ flow, at }: MailBody, place: number) {
  const { fired } = at(place);
  return fired.isEmpty() ? fired : fired.and(flow.fates.dropped().or(flow.fates.rejected));
}
