import { mkdirSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { pack } from 'tar-stream';
import { describe, expect, test } from 'vitest';
import { ZipFile } from 'yazl';
import { given } from '../../../test/given';
import {
  addFile,
  asked,
  audit,
  body,
  FROM,
  fill,
  id,
  job,
  MAIL,
  root,
  runner,
  SUBJECTS,
  store,
  withAudit,
  work,
} from '../../../test/harness';
import { splitMbox } from '../../core/mail/mbox';
import { octetsOf } from '../../files/undeclared';
import { createAudit, getAudit, setOwnAddresses } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { chainView } from '../chain/view';
import { columnPieces, messages, rawPieces, sources } from '../database/schema';
import { renameFolder } from '../gather/folders';
import { importFile, importPath } from '../gather/import-file';
import { gatherView, sourceFiles } from '../gather/view';
import { Cancelled, type JobRequest } from '../jobs/job';
import { perform } from '../jobs/perform';
import { JobRunner } from '../jobs/runner';
import { messageOctets, messagesAsMbox } from './download';
import { messagePage } from './list-view';
import { messageView } from './message-view';
import { maybeRaw } from './raw';
import { dropWords, messagesWithWords } from './word-index';

withAudit();

describe('bringing mail in', () => {
  const places = () =>
    messagePage(store, id, { offset: 0, limit: 100, part: 'fired' })
      .rows.map(({ subject, folder }) => `${folder}: ${subject}`)
      .sort();
  const collected = async (stream: AsyncIterable<Buffer>) => {
    const parts: Buffer[] = [];
    for await (const part of stream) parts.push(part);
    return Buffer.concat(parts);
  };
  const eml = (subject: string) =>
    `From: a@x.example\nSubject: ${subject}\nDate: Thu, 1 Jan 2026 10:00:00 +0000\n\nwords\n`;

  test('a zip archive: folders and flags by the places of its files, the rest passed over by name', async () => {
    const zip = new ZipFile();
    const put = (text: string, path: string) => zip.addBuffer(Buffer.from(text), path);
    put(MAIL, 'Suppliers/Oak.mbox');
    put(eml('one'), 'Maildir/cur/17.host:2,FS');
    put(eml('two'), 'Maildir/.Archive.2020/new/18.host');
    put(eml('three'), 'letters/three.eml');
    put('\u0089PNG', 'letters/picture.png');
    put('PK\u0003\u0004', 'inner.zip');
    zip.end();
    await addFile('mail.zip', await collected(octetsOf(zip.outputStream)));
    await work();
    const [source] = gatherView(store, id).sources;
    expect(source).toMatchObject({ state: 'ready', messages: 8 });
    expect(source?.statement).toContain(
      'Skipped: “letters/picture.png” (not mail), “inner.zip” (an archive within an archive).',
    );
    expect(places()).toEqual(
      [
        'Archive/2020: two',
        'INBOX: one',
        ...SUBJECTS.map((subject) => `Suppliers/Oak: ${subject}`),
        'letters: three',
      ].sort(),
    );
    expect(messageView(store, id, 5).flags).toEqual(['\\flagged', '\\seen']);
    const lines = sourceFiles(store, id, source?.id ?? '').map(({ path, many, messages: held }) => [path, many, held]);
    expect(lines).toEqual([
      ['Suppliers/Oak.mbox', false, 5],
      ['Maildir/cur/', true, 1],
      ['Maildir/.Archive.2020/new/', true, 1],
      ['letters/', true, 1],
      ['letters/picture.png', false, 0],
      ['inner.zip', false, 0],
    ]);
  });

  test('a compressed tar archive with a path that leads out of it, and with a link', async () => {
    const archive = pack();
    archive.entry({ name: '../../oak/x.eml' }, eml('out'));
    archive.entry({ name: 'loop', type: 'symlink', linkname: 'loop' });
    archive.entry({ name: 'weir.mbox' }, MAIL);
    archive.finalize();
    await addFile('mail.tar.gz', gzipSync(await collected(octetsOf(archive))));
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({
      messages: 6,
      statement: 'Skipped: “loop” (a link or a device, not a file).',
    });
    expect(places().filter((place) => place.startsWith('oak'))).toEqual(['oak: out']);
  });

  test('a compressed mbox, and a message by itself', async () => {
    await addFile('Oak.mbox.gz', gzipSync(MAIL));
    await addFile('letter.eml', eml('letter'));
    await work();
    expect(places()).toEqual(['INBOX: letter', ...SUBJECTS.map((subject) => `Oak: ${subject}`)].sort());
    expect(gatherView(store, id).sources.map(({ statement }) => statement)).toEqual(['', '']);
  });

  test('what is taken out is what was brought in, byte for byte', async () => {
    const odd = `${FROM}\nSubject: quoted\n\n>From here\n>>From there\nFrom now\n\n`;
    await addFile('INBOX.mbox', MAIL + odd);
    await addFile('letter.eml', `${eml('letter')}no line end`);
    await work();
    expect(messageOctets(store, id, 6).toString()).toBe(`${eml('letter')}no line end`);
    expect(() => messageOctets(store, id, 7)).toThrow('no such message');
    const all = Buffer.concat([...messagesAsMbox(store, id, { offset: 0, limit: 1, part: 'fired' })]);
    const again = [...splitMbox(all)];
    expect(again.map(({ raw }) => Buffer.from(raw).toString())).toEqual(
      // An mbox cannot contain a message whose last line has no end.
      again.map((_, number) =>
        messageOctets(store, id, number)
          .toString()
          .replace(/no line end$/, '$&\n'),
      ),
    );
    expect(again[6]?.fromLine).toBe('From unknown Thu Jan  1 10:00:00 2026');
    const some = [...messagesAsMbox(store, id, { offset: 0, limit: 1, part: 'fired', search: 'weir' })];
    expect(some).toHaveLength(2);
  });

  test.each(['mail.zip', 'mail.tar.gz', 'mail.mbox.gz'])(
    '%s: cancelled in the middle, it leaves nothing',
    async (name) => {
      const big = Buffer.from(MAIL.repeat(3000));
      const zip = new ZipFile();
      zip.addBuffer(big, 'a.mbox');
      zip.addBuffer(big, 'b.mbox');
      zip.end();
      const archive = pack();
      archive.entry({ name: 'a.mbox' }, big);
      archive.finalize();
      const content = name.endsWith('.zip')
        ? await collected(octetsOf(zip.outputStream))
        : gzipSync(name.includes('tar') ? await collected(octetsOf(archive)) : big);
      await addFile(name, content);
      let calls = 0;
      const cancelling = job(() => {
        if (++calls > 1) throw new Cancelled();
      });
      await expect(perform(store, cancelling, given(asked.shift()))).rejects.toThrow('cancelled');
      expect(gatherView(store, id).sources[0]).toMatchObject({ state: 'cancelled', messages: 0 });
      expect(store.select().from(messages).all()).toEqual([]);
    },
  );

  test.each([
    ['a damaged zip archive', 'a.zip', 'PK\u0003\u0004rubbish', 'the zip archive is damaged'],
    ['a damaged gzip archive', 'a.gz', gzipSync(MAIL).subarray(0, 60), 'the gzip archive is damaged'],
    [
      'a trap',
      'trap.gz',
      gzipSync(
        Buffer.concat(
          Array.from({ length: 3 }, () =>
            Buffer.concat([Buffer.from(MAIL), Buffer.alloc(100 * 1024 * 1024, 'a'), Buffer.from('\n\n')]),
          ),
        ),
      ),
      'unpacks to more than 200 times its size',
    ],
  ])('%s leaves nothing, and says why', async (_what, name, content, words) => {
    await addFile(name, content);
    await work();
    const [source] = gatherView(store, id).sources;
    expect(source?.state).toBe('refused');
    expect(source?.statement).toContain(words);
    expect(store.select().from(messages).all()).toEqual([]);
  });

  test('every octet is kept, folders and counts are known', async () => {
    await addFile('Weir.mbox', MAIL);
    await work();
    expect(audit().messageCount).toBe(5);
    expect(maybeRaw(store, id, 2)?.toString()).toBe(
      'From: Ann <a@x.example>\nSubject: oak beam\nDate: Thu, 3 Jan 2026 10:00:00 +0000\n\nwords 2\n',
    );
    expect(gatherView(store, id).folders).toEqual([{ folder: 'Weir', messages: 5, unseen: 5 }]);
  });

  test('binary octets of a large message too', async () => {
    const rubbish = Buffer.from(Uint8Array.from({ length: 9_000_000 }, (_, n) => (n * n + (n >> 9)) & 255));
    const raw = Buffer.concat([Buffer.from('Subject: large\n\n'), rubbish, Buffer.from('\n')]);
    await addFile('a.mbox', `${FROM}\n`, raw);
    await work();
    expect(maybeRaw(store, id, 0)?.equals(raw)).toBe(true);
  });

  test('a file without a separator that reads as a message is one message', async () => {
    await addFile('one.mbox', 'From: a@x.example\nSubject: x\n\nwords');
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({ state: 'ready', messages: 1 });
    expect(gatherView(store, id).sources[0]?.statement).not.toContain('before the first line that begins with “From ”');
  });

  test('a file named mbox that holds no mail is refused, and leaves nothing', async () => {
    await addFile('a.mbox', 'no mail\nat all\n');
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({ state: 'refused', messages: 0 });
    expect(store.select().from(rawPieces).all()).toEqual([]);
    expect(audit().messageCount).toBe(0);
  });

  test('cancelled in the middle, it leaves nothing, and the next file is numbered from the same place', async () => {
    await addFile('a.mbox', MAIL.repeat(400));
    const request = given(asked.shift());
    let checks = 0;
    const cancelling = job(() => {
      if (++checks > 1500) throw new Cancelled();
    });
    await expect(perform(store, cancelling, request)).rejects.toThrow(Cancelled);
    expect(store.select().from(messages).all()).toEqual([]);
    expect(store.select().from(columnPieces).all()).toEqual([]);
    expect(store.select().from(sources).all()[0]?.state).toBe('cancelled');
    await addFile('b.mbox', MAIL);
    await work();
    expect(audit().messageCount).toBe(5);
    expect(maybeRaw(store, id, 0)?.toString()).toContain('Subject: weir');
  });

  test('what a killed process left behind is taken back at the next start', async () => {
    await fill();
    await addFile('b.mbox', `${MAIL}${FROM}\nSubject: more\n\nmore\n`);
    const request = asked.shift() as Extract<JobRequest, { kind: 'import' }>;
    // As if the process had died after the first batch: rows exist, and the source is still being read.
    await perform(store, job(), request);
    store.update(sources).set({ state: 'importing' }).run();
    store.$client.exec(
      `update audit set message_count = 5; update source set messages = 0 where file_name = 'b.mbox';
       update source set state = 'ready' where file_name = 'INBOX.mbox'`,
    );
    new JobRunner(store).recover();
    expect(store.select().from(messages).all()).toHaveLength(5);
    expect(gatherView(store, id).sources.map(({ state }) => state)).toEqual(['interrupted', 'ready']);
    expect(maybeFlow(store, audit(), audit().draft)).not.toBeNull();
  });

  test('a second file is added, and what was evaluated before is evaluated anew', async () => {
    await fill();
    await addFile('More.mbox', `${FROM}\nSubject: oak\n\n`);
    await work();
    expect(maybeFlow(store, audit(), audit().draft)).toBeNull();
    expect(chainView(store, id).simulated).toBe(false);
    await perform(store, job(), { kind: 'simulate' });
    expect(messagePage(store, id, { offset: 0, limit: 10, part: 'fired', rule: 'r3' }).found).toBe(3);
  });

  test('the same message, to the octet, is stored once in each folder, whichever file brings it', async () => {
    const twice = `${FROM}\nSubject: oak\n\nplanks\n\n`;
    await addFile('Oak.mbox', twice + twice);
    await addFile('More.mbox', `${twice}${FROM}\nSubject: lime\n\nputty\n`);
    await importFile(store, runner, id, 'Oak again.mbox', body(`${twice}${FROM}\nSubject: elm\n\nboards\n`), {
      folder: 'Oak',
    });
    await work();
    const { sources: brought, folders } = gatherView(store, id);
    expect(folders.map(({ folder, messages: held }) => [folder, held])).toEqual([
      ['More', 2],
      ['Oak', 2],
    ]);
    expect(brought.map(({ messages: held }) => held)).toEqual([1, 2, 1]);
    expect(brought[0]?.statement).toContain('1 message was already in the folder and is stored once.');
    expect(messagePage(store, id, { offset: 0, limit: 10, part: 'fired' }).found).toBe(4);
  });

  test('a folder of the machine is read where it lies, links are not followed, and nothing of it is removed', async () => {
    const folder = join(root, 'Mill mail');
    for (const place of ['cur', 'new', '.Archive/cur']) mkdirSync(join(folder, place), { recursive: true });
    const letter = (subject: string) => `From: a@x.example\nSubject: ${subject}\n\nwords\n`;
    writeFileSync(join(folder, 'cur', '1700000000.1.mill:2,FS'), letter('weir'));
    writeFileSync(join(folder, 'new', '1700000001.2.mill'), letter('oak'));
    writeFileSync(join(folder, '.Archive', 'cur', '1700000002.3.mill:2,S'), letter('lime'));
    writeFileSync(join(folder, 'Suppliers.mbox'), MAIL);
    writeFileSync(join(folder, 'old.mbox.gz'), gzipSync(`${FROM}\nSubject: elm\n\n`));
    writeFileSync(join(folder, 'broken.zip'), 'PK\u0003\u0004rubbish');
    symlinkSync(folder, join(folder, 'round'));
    await importPath(store, runner, id, folder);
    await work();
    const { folders, sources: brought } = gatherView(store, id);
    expect(folders.map(({ folder: name, messages: held, unseen }) => [name, held, unseen]).sort()).toEqual([
      ['Archive', 1, 0],
      ['INBOX', 2, 1],
      ['Suppliers', 5, 5],
      ['old', 1, 1],
    ]);
    expect(brought[0]?.statement).toContain('“round” (a link or a device, not a file)');
    const { id: source, files, passedOver } = given(brought[0]);
    expect([files, passedOver]).toEqual([7, 2]);
    const lines = sourceFiles(store, id, source);
    expect(
      lines.map(({ path, messages: held, passedOver: reason }) => [path, held, reason?.slice(0, 26) ?? null]),
    ).toEqual([
      ['round', 0, 'a link or a device, not a '],
      ['.Archive/cur/', 1, null],
      ['Suppliers.mbox', 5, null],
      ['broken.zip', 0, 'the zip archive is damaged'],
      ['cur/', 1, null],
      ['new/', 1, null],
      ['old.mbox.gz', 1, null],
    ]);
    for (const [file, { messages: held }] of lines.entries()) {
      expect(messagePage(store, id, { offset: 0, limit: 1, part: 'fired', source, file }).found).toBe(held);
    }
    expect(() => messagePage(store, id, { offset: 0, limit: 1, part: 'fired', source, file: 7 })).toThrow(
      'no such file',
    );
    const rows = store.select().from(messages).all();
    expect(rows.find(({ subject, folder: at }) => subject === 'weir' && at === 'INBOX')?.received).toBe(1.7e12);
    expect(readdirSync(folder)).toContain('Suppliers.mbox');
    await expect(importPath(store, runner, id, folder)).rejects.toThrow('imported before');
    await expect(importPath(store, runner, id, join(root, 'nowhere'))).rejects.toThrow('There is no file or folder');
    await expect(importPath(store, runner, id, 'Mill mail')).rejects.toThrow('must be absolute');
  });

  test('a folder is given another name, or joined to one; a name of nothing is refused', async () => {
    await fill();
    await addFile('Old.mbox', `${FROM}\nSubject: oak\n\n`);
    await work();
    expect(renameFolder(store, id, 'Old', 'inbox')).toBe(1);
    expect(gatherView(store, id).folders.map(({ folder }) => folder)).toEqual(['INBOX']);
    expect(() => renameFolder(store, id, 'Old', 'x')).toThrow('no such folder');
  });

  test('the words of every message are found, whatever their accents; nothing of what was taken back', async () => {
    await addFile(
      'INBOX.mbox',
      `${FROM}\nFrom: Zoë <z@x.example>\nSubject: Café am Mühlbach\n\nThe river gauge\n\n${MAIL}`,
    );
    await work();
    const found = (asked: string, where?: 'body') => messagesWithWords(store, audit().ordinal, asked, where);
    expect(found('muhlbach')).toEqual([0]);
    expect(found('cafe zoe')).toEqual([0]);
    expect(found('river gau')).toEqual([0]);
    expect(found('"gauge river"')).toEqual([]);
    expect(found('oak', 'body')).toEqual([]);
    expect(found('oak')).toEqual([3, 4]);
    expect(found('subject:oak OR ) " -- *')).toEqual([]);
    const other = createAudit(store, 'other');
    expect(messagesWithWords(store, getAudit(store, other).ordinal, 'oak')).toEqual([]);
    dropWords(store, audit().ordinal, 4);
    expect(found('oak')).toEqual([3]);
  });

  test('own addresses are found from the mail, until the user says which they are', async () => {
    const to = (address: string) => `${FROM}\nDelivered-To: ${address}\nSubject: x ${address}\n\n\n`;
    await addFile('a.mbox', `${to('me@mill.example')}${to('me@mill.example').replace('Subject: x', 'Subject: y')}`);
    await work();
    expect(audit().ownAddresses).toEqual(['me@mill.example']);
    expect(setOwnAddresses(store, id, ['Office@Mill.example', 'office@mill.example'])).toEqual(['office@mill.example']);
    await addFile(
      'b.mbox',
      `${to('other@mill.example')}${to('other@mill.example').replace('Subject: x', 'Subject: y')}`,
    );
    await work();
    expect(audit().ownAddresses).toEqual(['office@mill.example']);
    expect(() => setOwnAddresses(store, id, ['no address'])).toThrow('not a single complete address');
  });
});
