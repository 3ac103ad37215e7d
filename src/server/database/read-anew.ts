import { readWrittenAction } from '../../core/rules/as-written';
import type { Store } from './open';

/** Where chains and changes stand as JSON. */
const COLUMNS = [
  ['audit', 'chain'],
  ['change', 'edits'],
  ['version', 'chain'],
] as const;

/**
 * Chains and changes that were written when filing with `:create` was still kept word for word, said as they are said now:
 * else no finding would look at where such rules file. All of them at once, so that changes still fit their chains.
 */
export function readFilingAnew({ $client }: Pick<Store, '$client'>): void {
  $client.transaction(() => {
    for (const [table, column] of COLUMNS) {
      const rows = $client
        .prepare(`select id, "${column}" as text from "${table}" where "${column}" like ?`)
        .all('%"action":"sieve","name":"fileinto"%') as { id: string | number; text: string }[];
      const update = $client.prepare(`update "${table}" set "${column}" = ? where id = ?`);
      for (const { id, text } of rows) update.run(JSON.stringify(JSON.parse(text, saidNow)), id);
    }
  })();
}

function saidNow(_: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null) return value;
  const { action, name, text } = value as Record<string, unknown>;
  if (action !== 'sieve' || name !== 'fileinto' || typeof text !== 'string') return value;
  const reading = readWrittenAction(text);
  return reading.ok ? reading.said : value;
}
