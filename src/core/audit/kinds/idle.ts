import type { ScriptBlock } from '../../rules/rule';
import { commands } from '../../sieve/language/table';
import { parse } from '../../sieve/parse';
import type { Statement } from '../../sieve/tree';
import type { AuditContext } from '../context';
import type { Finding } from '../finding';
import { withoutRule } from '../repairs';
import { CLAIMS, STRENGTHS } from '../wording';

/** Milliseconds. */
const YEAR = 365 * 86_400_000;

/**
 * `idle`: a rule has acted on no stored message, or on none within the year before the newest message. Script blocks
 * that do something to mail count too.
 */
export function idle({ chain, stored, mail, each }: AuditContext): Finding[] {
  const { newest } = mail;
  const { total } = stored.flow;
  if (total === 0) return [];
  const acting = stored.flow.entries.filter(({ entry }) => entry.on && (entry.kind === 'rule' || mayAct(entry)));
  return each(acting, ({ entry, fired, held }) => {
    const last = lastDate(fired.members(), (number) => mail.message(number).date);
    const never = fired.isEmpty();
    if (!never && (last === null || newest === null || last > newest - YEAR)) return [];
    return [
      {
        key: `idle ${entry.id}`,
        kind: 'idle',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'clutter',
        claim: CLAIMS.idle(entry.name, never ? null : last, held.count()),
        messages: [...(never ? held : fired).members()],
        witness: null,
        strength: { part: fired.count(), whole: total, words: STRENGTHS.idle },
        repairs: withoutRule(chain, entry),
      } satisfies Finding,
    ];
  });
}

/** Whether a script block does more than set variables. */
function mayAct({ text, works }: ScriptBlock): boolean {
  const acts = (statements: readonly Statement[]): boolean =>
    statements.some((statement) => {
      if (statement.kind !== 'command') return false;
      const isAction = commands.get(statement.name)?.role === 'action' && !/^(set|extracttext)$/.test(statement.name);
      return isAction || acts(statement.block?.commands ?? []);
    });
  return works && acts(parse(text).script.commands);
}

function lastDate(members: Iterable<number>, dateOf: (number: number) => number | null): number | null {
  let last: number | null = null;
  for (const number of members) {
    const date = dateOf(number);
    if (date !== null && (last === null || date > last)) last = date;
  }
  return last;
}
