import { and, asc, eq, gte, lt } from 'drizzle-orm';
import type { MboxOddity } from '../../core/mail/mbox';
import { READER } from '../../core/mail/reading';
import { elementAt } from '../../core/text/lookup';
import { type Audit, getAudit } from '../audits/audits';
import { inTransaction, type Store } from '../database/open';
import { atoms, audits, columnPieces, messages } from '../database/schema';
import type { Oddity } from '../gather/oddities';
import { maybeRaw } from '../mail/raw';
import { dropWords, preparedIndexing } from '../mail/word-index';
import type { JobContext } from './job';
import { type Arrival, prepare } from './prepare';

/** Values that came from the file, and that rereading the octets does not change. */
const OF_THE_FILE: readonly Oddity[] = [
  'no-separator',
  'no-blank-line-before',
  'cut-off',
  'nul',
  'empty',
] satisfies MboxOddity[];

const isOfTheFile = (oddity: Oddity): oddity is MboxOddity => OF_THE_FILE.includes(oddity);

/**
 * Rereads the stored mail of an audit whose columns an earlier reader made; lists, tests and message pages would
 * disagree otherwise. Each batch is one transaction, and rereading a batch twice is harmless.
 */
export function rereadMail(store: Store, job: JobContext): void {
  const row = store.select({ reader: audits.reader }).from(audits).where(eq(audits.id, job.auditId)).get();
  if (!row || row.reader >= READER) return;
  const audit = getAudit(store, job.auditId);
  const edges = [...batchesOf(store, audit), audit.messageCount];
  edges.slice(0, -1).forEach((first, at) => {
    job.checkpoint();
    job.report({ phase: 'reading stored mail again', done: first, total: audit.messageCount, unit: 'messages' });
    rereadBatch(store, audit, first, elementAt(edges, at + 1));
  });
  inTransaction(store, (tx) => {
    tx.delete(atoms).where(eq(atoms.auditId, audit.id)).run();
    tx.update(audits).set({ reader: READER }).where(eq(audits.id, audit.id)).run();
  });
}

/** The first messages of the batches of columns: every message has a size, so the size column has them all. */
function batchesOf(store: Store, { id, messageCount }: Audit): number[] {
  return store
    .select({ first: columnPieces.first })
    .from(columnPieces)
    .where(and(eq(columnPieces.auditId, id), eq(columnPieces.column, 'size'), lt(columnPieces.first, messageCount)))
    .orderBy(asc(columnPieces.first))
    .all()
    .map(({ first }) => first);
}

function rereadBatch(store: Store, audit: Audit, first: number, end: number): void {
  const among = and(eq(messages.auditId, audit.id), gte(messages.number, first), lt(messages.number, end));
  const rows = store.select().from(messages).where(among).orderBy(asc(messages.number)).all();
  const arrivals = rows.map((row): Arrival => {
    const raw = maybeRaw(store, audit.id, row.number);
    if (!raw) throw new Error(`message ${row.number} is not stored`);
    const oddities = row.oddities.filter(isOfTheFile);
    return {
      number: row.number,
      digest: row.digest,
      found: {
        raw,
        folder: row.folder,
        flags: row.flags,
        received: row.received,
        fromLine: row.fromLine,
        oddities,
        offset: 0,
        single: true,
        path: null,
        // Those of Status fields are among them.
        hasAllFlags: true,
      },
    };
  });
  const read = prepare({ auditId: audit.id, sourceId: '', uses: Object.fromEntries(audit.folderUses), arrivals });
  inTransaction(store, (tx) => {
    for (const [at, { sourceId: _of, ...row }] of read.messages.entries()) {
      const number = rows[at]?.number ?? -1;
      tx.update(messages)
        .set(row)
        .where(and(eq(messages.auditId, audit.id), eq(messages.number, number)))
        .run();
    }
    tx.delete(columnPieces)
      .where(and(eq(columnPieces.auditId, audit.id), gte(columnPieces.first, first), lt(columnPieces.first, end)))
      .run();
    for (const piece of read.columns) {
      tx.insert(columnPieces)
        .values({ auditId: audit.id, ...piece, data: Buffer.from(piece.data) })
        .run();
    }
    dropWords(tx, audit.ordinal, first, end);
    const index = preparedIndexing(store, audit.ordinal);
    for (const words of read.words) index(words);
  });
}
