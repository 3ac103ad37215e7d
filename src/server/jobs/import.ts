import { eq } from 'drizzle-orm';
import { atOnce } from '../../core/audit/stepwise';
import { MessageTooLarge } from '../../core/mail/mbox';
import { mailIn } from '../../files/mail/formats';
import { type MailFileSettings, type PassedOver, Unreadable } from '../../files/mail/found';
import { inTransaction, type Store } from '../database/open';
import { DISK_FULL, emptyLog, isDiskFull, makingRoom } from '../database/reserve';
import { audits, sources } from '../database/schema';
import { droppingFrom, dropSourceMail, recount, setState } from '../gather/mail-sources';
import { oddityStatement } from '../gather/oddities';
import { Importer, keepHeld, ownAfter, repeatedStatement } from './importer';
import { Cancelled, type JobContext } from './job';
import type { Preparer } from './preparer';

/**
 * Imports a file of mail, or all files of a folder. Until the last statement the messages are beyond the audit's count,
 * so that nobody sees half an import; whatever ends it early deletes them again.
 */
export async function importMail(
  store: Store,
  job: JobContext,
  sourceId: string,
  file: string,
  preparer: Preparer,
  replaces: string | null = null,
): Promise<string> {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  const audit = store.select().from(audits).where(eq(audits.id, job.auditId)).get();
  if (!source || !audit) throw new Error(`no source ${sourceId}`);
  const first = audit.messageCount;
  // If there was no space even to delete an unfinished import, it is still there.
  atOnce(droppingFrom(store, audit.id, first));
  store.update(sources).set({ firstMessage: first }).where(eq(sources.id, sourceId)).run();
  const importer = new Importer(store, audit, source.id, first, preparer, replaces !== null, job.checkpoint);
  const settings: MailFileSettings = {
    name: source.fileName,
    folder: source.folder,
    progress: (done, total) => {
      job.checkpoint();
      job.report({ phase: 'reading mail', done, total, unit: 'bytes', messages: importer.count });
    },
    isEnd: (error) => error instanceof Cancelled,
    passOver: (one) => importer.passOver(one),
    foundFolder: (folder) => importer.folders.add(folder),
  };
  try {
    for await (const some of mailIn(file, settings)) {
      for (const found of some) {
        job.checkpoint();
        await importer.add(found);
      }
    }
    await importer.finish();
    return finish(store, job.auditId, sourceId, importer, replaces);
  } catch (error) {
    dropSourceMail(store, sourceId);
    const state = error instanceof Cancelled ? 'cancelled' : 'refused';
    const statement = error instanceof Cancelled ? 'Cancelled. Nothing of this file was imported.' : refusal(error);
    makingRoom(() =>
      store.update(sources).set({ state, statement, messages: 0 }).where(eq(sources.id, sourceId)).run(),
    );
    emptyLog(store);
    if (error instanceof MessageTooLarge || error instanceof Unreadable || isDiskFull(error)) return statement;
    throw error;
  } finally {
    preparer.close();
  }
}

function refusal(error: unknown): string {
  if (error instanceof MessageTooLarge) return `Nothing of this file was imported: ${error.message} to be read.`;
  if (error instanceof Unreadable) return `Nothing of this file was imported: ${error.message}.`;
  if (isDiskFull(error)) return `Nothing of this file was imported. ${DISK_FULL}`;
  return 'Nothing of this file was imported: reading it failed.';
}

function finish(store: Store, auditId: string, sourceId: string, importer: Importer, replaces: string | null): string {
  const { count, first, repeated } = importer;
  if (importer.readable === 0 && repeated === 0) {
    dropSourceMail(store, sourceId);
    const statement = noMailStatement(importer.passed);
    store.update(sources).set({ state: 'refused', statement, messages: 0 }).where(eq(sources.id, sourceId)).run();
    return statement;
  }
  const statements = [
    oddityStatement(importer.oddities, count),
    repeatedStatement(repeated),
    passedStatement(importer.passed),
  ];
  const statement = statements.filter(Boolean).join(' ');
  inTransaction(store, (tx) => {
    tx.update(sources)
      .set({
        state: 'ready',
        messages: count,
        repeated,
        statement,
        files: importer.report.lines(),
        folders: [...importer.folders],
      })
      .where(eq(sources.id, sourceId))
      .run();
    const audit = tx.select().from(audits).where(eq(audits.id, auditId)).get();
    tx.update(audits)
      .set({ messageCount: first + count, ...(audit && { ownAddresses: ownAfter(audit, importer) }) })
      .where(eq(audits.id, auditId))
      .run();
    keepHeld(store, auditId, sourceId, importer.held);
    if (replaces !== null) setState(tx, auditId, replaces, 'removed');
    else if (importer.held.length > 0) recount(tx, auditId);
  });
  return `${count} messages`;
}

/** Why no mail was found, with the reasons if known. */
function noMailStatement(passed: readonly PassedOver[]): string {
  const reasons = [...new Set(passed.map(({ reason }) => reason))];
  if (reasons.length === 0) return 'The file contains no mail: it is neither an mbox file nor a message.';
  const [only, another] = reasons;
  const files = passed.length === 1 ? 'Its only file is' : `All of its ${passed.length} files are`;
  if (only !== undefined && another === undefined) return `Nothing could be imported. ${files} skipped: ${only}.`;
  return `Nothing could be imported. ${passedStatement(passed)}`;
}

const NAMED_PASSED = 5;

/** Lists skipped files, the first ones by name; empty if there are none. */
function passedStatement(passed: readonly PassedOver[]): string {
  if (passed.length === 0) return '';
  const named = passed.slice(0, NAMED_PASSED).map(({ path, reason }) => `“${path.slice(-80)}” (${reason})`);
  const more = passed.length > NAMED_PASSED ? ` and ${passed.length - NAMED_PASSED} more` : '';
  return `Skipped: ${named.join(', ')}${more}.`;
}
