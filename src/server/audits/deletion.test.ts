import { expect, test } from 'vitest';
import { addFile, FROM, fill, goTo, id, store, withAudit, work } from '../../../test/harness';
import { type OpenStore, openStore } from '../database/open';
import { messagesWithWords } from '../mail/word-index';
import { createAudit, listAudits, maybeAudit } from './audits';
import { deletion, finishDeletions } from './deletion';

withAudit();

/** The number of rows of an audit in each table, without empty tables. */
function rowsOf(db: OpenStore, auditId: string): Record<string, number> {
  const tables = db.$client
    .prepare("select m.name from sqlite_master m join pragma_table_info(m.name) c on c.name = 'audit_id'")
    .pluck()
    .all() as string[];
  expect(tables).toContain('raw_piece');
  const count = (table: string) =>
    Number(db.$client.prepare(`select count(*) from "${table}" where audit_id = ?`).pluck().get(auditId));
  return Object.fromEntries(tables.map((table) => [table, count(table)] as const).filter(([, rows]) => rows > 0));
}

const words = (db: OpenStore): number => Number(db.$client.prepare('select count(*) from message_text').pluck().get());

const writtenAnewAt = (): number =>
  Number(store.$client.prepare("select v from message_text_config where k = 'deletemerge'").pluck().get());

/** The audit under test, and another with more messages than one step deletes. */
async function twoAudits(): Promise<[kept: string, doomed: string]> {
  const kept = id;
  await fill();
  const doomed = createAudit(store, 'to go');
  goTo(doomed);
  await fill();
  await addFile('Many.mbox', ...Array.from({ length: 4500 }, (_, n) => `${FROM}\nSubject: oak ${n}\n\nw\n\n`));
  await work();
  return [kept, doomed];
}

test('a deleted audit is gone at once, and every row of it in the end; another keeps all of its own', async () => {
  const [kept, doomed] = await twoAudits();
  const before = rowsOf(store, kept);
  expect(maybeAudit(store, doomed)?.messageCount).toBe(4505);
  const steps = deletion(store, doomed);
  steps.next();
  expect(maybeAudit(store, doomed)).toBeNull();
  expect(listAudits(store).map((one) => one.id)).toEqual([kept]);
  let count = 1;
  while (!steps.next().done) count++;
  // 4505 messages, 2000 at a time, and the audit itself.
  expect(count).toBe(4);
  expect(rowsOf(store, doomed)).toEqual({});
  expect(rowsOf(store, kept)).toEqual(before);
  expect(words(store)).toBe(5);
  expect(writtenAnewAt()).toBe(10);
  expect(messagesWithWords(store, maybeAudit(store, kept)?.ordinal ?? 0, 'oak')).toHaveLength(2);
});

test('what a killed process has left of it goes at the next start, after any of its steps', async () => {
  for (let done = 1; done <= 4; done++) {
    const [kept, doomed] = await twoAudits();
    const steps = deletion(store, doomed);
    for (let step = 0; step < done; step++) steps.next();
    const later = openStore(store.$client.name);
    finishDeletions(later);
    expect(rowsOf(later, doomed), `${done} steps`).toEqual({});
    expect(words(later)).toBe(5 * done);
    expect(writtenAnewAt()).toBe(10);
    later.$client.close();
    goTo(createAudit(store, `round ${done}`));
    expect(rowsOf(store, kept)).not.toEqual({});
  }
});

test('there may be nothing to finish, and no such audit', () => {
  finishDeletions(store);
  const steps = deletion(store, 'none');
  while (!steps.next().done);
  expect(listAudits(store)).toHaveLength(1);
});
