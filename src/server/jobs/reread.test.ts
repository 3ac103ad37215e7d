import { and, eq } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { addFile, FROM, id, job, store, withAudit, work } from '../../../test/harness';
import { chainView } from '../chain/view';
import { atoms, audits, columnPieces, messages } from '../database/schema';
import { messageQueryShape } from '../http/shapes';
import { messagePage } from '../mail/list-view';
import { perform } from './perform';

withAudit();

test('mail that an earlier edition has read is read anew before it is simulated', async () => {
  await addFile('a.sieve', '# Price\nif header :contains "subject" "€" { discard; }\n');
  const letter = Buffer.concat([
    Buffer.from(`${FROM}\nFrom: a@x.example\nSubject: `),
    Buffer.from([0x80]),
    Buffer.from(' 5 for oak\n\nwords\n\n'),
  ]);
  await addFile('INBOX.mbox', letter);
  await work();
  const fired = async () => {
    await perform(store, job(), { kind: 'simulate' });
    return chainView(store, id).rungs[0]?.counts?.fired;
  };
  expect(await fired()).toBe(1);
  const subjects = () => messagePage(store, id, messageQueryShape.parse({})).rows.map(({ subject }) => subject);
  expect(subjects()).toEqual(['€ 5 for oak']);
  // As an earlier reader, which lost the sign, has left it.
  const subject = and(eq(columnPieces.auditId, id), eq(columnPieces.column, 'header:subject'));
  store.delete(columnPieces).where(subject).run();
  store.update(messages).set({ subject: 'lost' }).run();
  store.update(audits).set({ reader: 0 }).run();
  store.delete(atoms).run();
  expect(await fired()).toBe(1);
  expect(subjects()).toEqual(['€ 5 for oak']);
  expect(messagePage(store, id, messageQueryShape.parse({ search: 'oak' })).rows).toHaveLength(1);
  expect(store.select({ reader: audits.reader }).from(audits).get()?.reader).toBeGreaterThan(0);
});
