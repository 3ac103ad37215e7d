import { eq, type SQL, sql } from 'drizzle-orm';
import type { SQLiteColumn, SQLiteTable } from 'drizzle-orm/sqlite-core';
import { MOST_BESIDE_MAIL } from '../../files/archive-file';
import type { Store } from '../database/open';
import { audits, changes, expectations, handed, probes, scripts, versions } from '../database/schema';
import { getAudit, Refusal } from './audits';

/** Reserved for the settings of an audit and for findings that are set aside. */
const MARGIN = 8 * 1024 * 1024;

const MOST = MOST_BESIDE_MAIL - MARGIN;

/**
 * Throws a refusal if an audit without its mail exceeds what an exported one may contain, so that whatever is accepted
 * can be exported and opened again. Call it at the end of a transaction that adds to the audit.
 */
export function refuseOverweight(tx: Store, auditId: string): void {
  if (!isOverweight(tx, auditId)) return;
  throw new Refusal(
    `With this change the audit would exceed ${MOST / 1024 / 1024} MB without its mail, the most that can be downloaded and opened again. Nothing was changed. Delete some versions, or start another audit.`,
    413,
  );
}

export function isOverweight(tx: Store, auditId: string): boolean {
  const octetsIn = (table: SQLiteTable, of: SQLiteColumn, columns: readonly (SQLiteColumn | SQL)[]): number => {
    const row = columns.map((column) => sql`octet_length(${column})`);
    const found = tx
      .select({ octets: sql<number>`coalesce(sum(${sql.join(row, sql` + `)}), 0)` })
      .from(table)
      .where(eq(of, auditId))
      .get();
    return found?.octets ?? 0;
  };
  const baseline = octetsIn(audits, audits.id, [audits.chain]);
  const edits = octetsIn(changes, changes.auditId, [changes.edits, changes.words, changes.why]);
  const others =
    octetsIn(scripts, scripts.auditId, [scripts.source, scripts.faults, scripts.faultEntries, scripts.entries]) +
    octetsIn(versions, versions.auditId, [versions.chain]) +
    octetsIn(expectations, expectations.auditId, [expectations.statement]) +
    octetsIn(handed, handed.auditId, [handed.script]) +
    (octetsIn(probes, probes.auditId, [probes.raw]) * 4) / 3;
  // The draft is exported too; it contains no more than the imports and changes.
  if (2 * (baseline + edits) + others <= MOST) return false;
  const draft = Buffer.byteLength(JSON.stringify(getAudit(tx, auditId).draft));
  return baseline + edits + draft + others > MOST;
}
