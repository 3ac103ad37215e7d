import type { AuditContext } from '../context';
import { counted, withoutRule } from '../edits';
import type { Finding } from '../finding';

/** Milliseconds. */
const YEAR = 365 * 86_400_000;

/**
 * `idle`: a rule has fired on none of the stored mail; or it has, but on nothing of the year before the newest message.
 */
export function idle({ chain, rules, mail }: AuditContext): Finding[] {
  const { newest } = mail;
  const total = mail.mail.messages.length;
  if (total === 0) return [];
  return rules.flatMap(({ entry, fired, held }) => {
    const last = lastDate(fired.members(), (number) => mail.message(number).date);
    const never = fired.isEmpty();
    if (!never && (last === null || newest === null || last > newest - YEAR)) return [];
    const holds = held.count();
    const claim = never
      ? holds > 0
        ? `“${entry.name}” has acted on none of the stored mail: it holds for ${counted(holds, 'message')}, which earlier rules ended.`
        : `“${entry.name}” has acted on none of the stored mail.`
      : `“${entry.name}” has acted on nothing since ${new Date(last as number).toISOString().slice(0, 10)}.`;
    return [
      {
        key: `idle ${entry.id}`,
        kind: 'idle',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'clutter',
        claim,
        messages: [...(never ? held : fired).members()],
        witness: null,
        strength: { part: fired.count(), whole: total, words: 'stored messages fired it' },
        repairs: withoutRule(chain, entry),
      } satisfies Finding,
    ];
  });
}

function lastDate(members: Iterable<number>, dateOf: (number: number) => number | null): number | null {
  let last: number | null = null;
  for (const number of members) {
    const date = dateOf(number);
    if (date !== null && (last === null || date > last)) last = date;
  }
  return last;
}
