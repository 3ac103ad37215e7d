import type { MailBody } from '../body';
import { type AuditContext, evidenceOf } from '../context';
import { drops, refuses } from '../destinations';
import { counted, withoutRule } from '../edits';
import type { Finding } from '../finding';
import { filed } from '../instead';

/** `loss`: a rule drops or refuses mail of which no copy is left anywhere, neither in a folder nor sent on. */
export function losses(context: AuditContext): Finding[] {
  return context.each(context.rules, (rule) => {
    const { entry, place } = rule;
    if (!drops(entry) && !refuses(entry)) return [];
    const evidence = evidenceOf(context, (body) => lostBy(body, place));
    if (!evidence) return [];
    const count = evidence.messages.length;
    const does = drops(entry) ? 'drops' : 'refuses';
    const mail = count > 0 ? counted(count, 'stored message') : 'mail such as the message made up here';
    return [
      {
        key: `loss ${entry.id}`,
        kind: 'loss',
        rules: [entry.id],
        certainty: 'shown',
        consequence: 'lost',
        claim: `“${entry.name}” ${does} ${mail}, and no copy is left anywhere.`,
        ...evidence,
        strength: count > 0 ? { part: count, whole: rule.fired.count(), words: 'messages it acts on are lost' } : null,
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
