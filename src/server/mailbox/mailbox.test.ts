import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Dovecot, startDovecot, trustedAddress } from '../../../test/dovecot';
import { given } from '../../../test/given';
import { addFile, audit, FROM, id, job, store, withAudit, work } from '../../../test/harness';
import { corpus } from '../../core/agreement/corpus';
import { writeMboxEntry } from '../../core/mail/mbox';
import { ImapMail } from '../../imap/mailbox';
import { keepExpectation } from '../changes/expectations';
import { databaseFile } from '../database/open';
import { sources } from '../database/schema';
import { restoreSource } from '../gather/mail-sources';
import { gatherView } from '../gather/view';
import { handoverSettings, keepHanded } from '../handover/handover';
import { messageQueryShape } from '../http/shapes';
import { Cancelled, type JobRequest } from '../jobs/job';
import { perform } from '../jobs/perform';
import { JobRunner } from '../jobs/runner';
import { messagePage } from '../mail/list-view';
import { maybeRaw } from '../mail/raw';
import { askMailbox, type MailboxLogin, type MailboxRequest } from './ask';
import { keepMailServer } from './servers';
import { mailboxView } from './view';

/** Audits that fetch from an independent server of IMAP and ManageSieve, whose store changes under them. */

withAudit();

const FOLDERS = ['INBOX', 'Sent', 'Weir/Pegelstände'];
const messages = corpus().slice(0, 90);
const overTheWire = (raw: Uint8Array): Buffer =>
  Buffer.from(Buffer.from(raw).toString('latin1').replace(/\r?\n/g, '\r\n'), 'latin1');
const SCRIPT =
  'require "fileinto";\r\n# Oak\r\nif header :contains "subject" "oak" { fileinto "Oak"; }\r\n# Hinges\r\nif header :contains "subject" "hinges" { discard; }\r\n';

const placeOf = (mail: string, folder: string): string =>
  folder === 'INBOX' ? mail : join(mail, ...folder.replace('ä', '&AOQ-').split('/'));
const nameOf = (number: number, flags = ''): string => `${1_600_000_000 + number}.M${number}.mill:2,${flags}`;

function fill(mail: string): void {
  for (const folder of FOLDERS) {
    for (const part of ['cur', 'new', 'tmp']) mkdirSync(join(placeOf(mail, folder), part), { recursive: true });
  }
  for (const [number, raw] of messages.slice(0, 60).entries()) put(mail, given(FOLDERS[number % 3]), number, raw);
  mkdirSync(join(mail, 'sieve'), { recursive: true });
}

const put = (mail: string, folder: string, number: number, raw: Uint8Array, flags = ''): void =>
  writeFileSync(join(placeOf(mail, folder), 'cur', nameOf(number, flags)), raw);

const HINGES = Buffer.from('From: a@oak.example\nSubject: hinges\nReceived: x\n\nx\n');
const OAK = Buffer.from('From: a@oak.example\nSubject: oak beams\nReceived: x\n\nx\n');

describe('an audit and a mailbox', () => {
  let server: Dovecot;
  let login: MailboxLogin;
  beforeAll(async () => {
    server = await startDovecot(fill);
    const { imap, sieve } = server.ports;
    const address = await trustedAddress(imap, 'starttls', (one) => ImapMail.connect(one, server));
    login = { ...address, user: server.user, password: server.password, sievePort: sieve };
  }, 60_000);
  afterAll(() => server.stop());

  let secrets: [JobRequest, string][] = [];
  const runner = {
    start: (_audit: string, request: JobRequest, secret = '') => String(secrets.push([request, secret])),
  };
  const ask = (request: MailboxRequest) => askMailbox(store, runner, id, login, request);
  const run = async (checkpoint = () => {}): Promise<void> => {
    const waiting = secrets;
    secrets = [];
    for (const [request, secret] of waiting) {
      const preparer = { prepare: (await import('../jobs/preparer')).preparesHere.prepare, close: () => {} };
      await perform(store, job(checkpoint), request, { preparer: () => preparer, sharer: () => null, secret });
    }
  };
  const simulate = () => perform(store, job(), { kind: 'simulate' });
  const fetchAll = async (): Promise<void> => {
    await ask({ ask: 'fetch', folders: FOLDERS, since: null, scripts: [] });
    await run();
  };
  const again = async (): Promise<void> => {
    await ask({ ask: 'again' });
    await run();
    await simulate();
  };

  test('folders are told with counts, sizes and uses before anything is fetched', async () => {
    const seen = await ask({ ask: 'look', since: null });
    if (!('folders' in seen)) throw new Error('not looked at');
    expect(seen.folders.map(({ path, messages: count }) => [path, count]).sort()).toEqual(
      FOLDERS.map((folder) => [folder, 20]).sort(),
    );
    expect(seen.folders.find(({ path }) => path === 'Sent')?.use).toBe('sent');
    const octets = messages.slice(0, 60).reduce((sum, raw) => sum + overTheWire(raw).length, 0);
    expect(seen.folders.reduce((sum, one) => sum + (one.octets ?? 0), 0)).toBe(octets);
    expect(seen.scripts).toEqual([]);
    // What the server beside the mailbox can do with scripts is the target from now on.
    const { target, capabilities } = handoverSettings(store, id);
    expect(target).toBe('own');
    expect(capabilities).toEqual(expect.arrayContaining(['fileinto', 'relational', 'comparator-i;ascii-numeric']));
    const later = await ask({ ask: 'look', since: Date.UTC(2099, 0, 1) });
    expect('folders' in later && later.folders.map((one) => [one.messages, one.octets])).toEqual([
      [0, 0],
      [0, 0],
      [0, 0],
    ]);
    expect(audit().messageCount).toBe(0);
  });

  test('only what is new comes the next time; flags are refreshed, what is gone is told and can be restored', async () => {
    await fetchAll();
    await simulate();
    expect(audit()).toMatchObject({ messageCount: 60, storedCount: 60 });
    expect(mailboxView(store, id).last).toMatchObject({ added: 60, flagged: 0, gone: 0, trouble: '' });
    const raws = Array.from({ length: 60 }, (_, number) =>
      Buffer.from(given(maybeRaw(store, id, number))).toString('latin1'),
    );
    expect(raws.sort()).toEqual(
      messages
        .slice(0, 60)
        .map((raw) => overTheWire(raw).toString('latin1'))
        .sort(),
    );
    expect(audit().folderUses.get('Sent')).toBe('sent');
    // The password is stored nowhere.
    const files = [databaseFile(), `${databaseFile()}-wal`].filter((file) => existsSync(file));
    const octets = Buffer.concat(files.map((file) => readFileSync(file)));
    expect([octets.includes(login.user), octets.includes(login.password)]).toEqual([true, false]);

    await again();
    expect(mailboxView(store, id).last).toMatchObject({ added: 0, flagged: 0, gone: 0, sourceId: null });
    expect(store.select().from(sources).all()).toHaveLength(1);

    // One is moved by hand, one deleted, one read and answered; three arrive.
    const inbox = join(server.mail, 'cur');
    const stored = (number: number) =>
      given(readdirSync(inbox).find((name) => name.startsWith(`${1_600_000_000 + number}.M${number}.`)));
    renameSync(join(inbox, stored(0)), join(placeOf(server.mail, 'Weir/Pegelstände'), 'cur', nameOf(500)));
    rmSync(join(inbox, stored(3)));
    renameSync(join(inbox, stored(6)), join(inbox, nameOf(6, 'RS')));
    for (const number of [60, 61, 62]) put(server.mail, 'INBOX', number, given(messages[number]));
    await again();
    expect(mailboxView(store, id).last).toMatchObject({ added: 4, flagged: 1, gone: 2, trouble: '' });
    expect(audit()).toMatchObject({ messageCount: 64, storedCount: 62 });
    const inboxNow = gatherView(store, id).folders.find(({ folder }) => folder === 'INBOX');
    expect(inboxNow?.messages).toBe(21);
    const listed = messagePage(store, id, messageQueryShape.parse({ limit: '100' }));
    expect(listed.found).toBe(62);

    const gone = given(
      store
        .select()
        .from(sources)
        .all()
        .find(({ state }) => state === 'removed'),
    );
    expect(gone).toMatchObject({ fileName: 'No longer on the server', messages: 2 });
    restoreSource(store, id, gone.id);
    expect(audit().storedCount).toBe(64);
  });

  test('a new UIDVALIDITY fetches all again, and stores nothing twice', async () => {
    await fetchAll();
    const before = audit().storedCount;
    // Dovecot gives another one to a folder whose list of UIDs is lost.
    rmSync(join(server.mail, 'dovecot-uidlist'));
    rmSync(join(server.mail, 'dovecot.index.log'), { force: true });
    rmSync(join(server.mail, 'dovecot.index'), { force: true });
    rmSync(join(server.mail, 'dovecot.index.cache'), { force: true });
    await again();
    expect(audit()).toMatchObject({ messageCount: before, storedCount: before });
    expect(mailboxView(store, id).last).toMatchObject({ added: 0, gone: 0 });
  });

  test('mail of one mailbox stays when another one is fetched', async () => {
    await fetchAll();
    const { storedCount } = audit();
    const { host, port, security } = login;
    const mine = { host, port, security, user: 'another', sievePort: null, folders: FOLDERS, since: null };
    keepMailServer(store, id, mine);
    keepMailServer(store, id, { ...mine, user: login.user });
    await again();
    expect(mailboxView(store, id).last).toMatchObject({ added: 0, gone: 0 });
    expect(audit().storedCount).toBe(storedCount);
  });

  test('what was fetched before it was cancelled is not fetched again', async () => {
    await ask({ ask: 'fetch', folders: FOLDERS, since: null, scripts: [] });
    await expect(ask({ ask: 'again' })).rejects.toThrow('Mail is already being fetched.');
    let checks = 0;
    await run(() => {
      if (++checks > 150) throw new Cancelled();
    });
    const { messageCount } = audit();
    expect(mailboxView(store, id).last?.trouble).toBe('Cancelled. Fetch again to get the rest.');
    await again();
    const total = audit().messageCount;
    expect(mailboxView(store, id).last).toMatchObject({ added: total - messageCount, gone: 0 });
    const raws = Array.from({ length: total }, (_, number) => maybeRaw(store, id, number)?.toString('latin1'));
    expect(raws.every((raw) => raw !== undefined)).toBe(true);
    expect(new Set(raws).size).toBe(total);
  });

  test('what was fetched before the process was killed counts after the next start', async () => {
    await ask({ ask: 'fetch', folders: FOLDERS, since: null, scripts: [] });
    let checks = 0;
    const killed = run(() => {
      if (++checks > 150) throw new Error('killed');
    });
    await expect(killed).rejects.toThrow('killed');
    expect(audit().messageCount).toBe(0);
    new JobRunner(store).recover();
    const { messageCount } = audit();
    expect(messageCount).toBeGreaterThan(0);
    const { last, isFetching } = mailboxView(store, id);
    expect([last?.added, last?.trouble, isFetching]).toEqual([
      messageCount,
      'The server was stopped meanwhile. Fetch again to get the rest.',
      false,
    ]);
    await again();
    expect(mailboxView(store, id).last).toMatchObject({ added: audit().messageCount - messageCount, gone: 0 });
    expect(audit().messageCount).toBeGreaterThan(messageCount);
  });

  test('the script in use, expectations that new mail breaks, and new findings are told', async () => {
    const scripts = join(server.mail, 'sieve');
    writeFileSync(join(scripts, 'mill.sieve'), SCRIPT);
    const { ManageSieve } = await import('../../managesieve/client');
    const client = await ManageSieve.connect({ ...login, port: server.ports.sieve });
    await client.authenticate(server.user, server.password);
    await client.put('mill', SCRIPT);
    await client.activate('mill');
    await client.logout();

    await ask({ ask: 'fetch', folders: ['INBOX'], since: null, scripts: ['mill'] });
    await run();
    await simulate();
    expect(audit().draft.entries.map(({ name }) => name)).toEqual(['Oak', 'Hinges']);
    expect(mailboxView(store, id).last?.script).toMatchObject({ name: 'mill', standing: { is: 'imported' } });
    keepHanded(store, id, `${login.host}, as “mill”`, SCRIPT);
    keepExpectation(store, id, {
      name: 'All',
      tests: { kind: 'all', children: [] },
      must: { must: 'reach the inbox' },
    });
    put(server.mail, 'INBOX', 900, OAK);
    put(server.mail, 'INBOX', 901, HINGES, 'F');
    await again();
    const { last } = mailboxView(store, id);
    expect(last).toMatchObject({
      added: 2,
      script: { standing: { is: 'uploaded' } },
      broken: [{ messages: 2 }],
      destinations: [
        { key: 'folder:Oak', messages: 1 },
        { key: 'dropped', messages: 1 },
      ],
    });
    expect(last?.findings?.map(({ kind }) => kind)).toEqual(['loss', 'unprotected']);
    keepHanded(store, id, `${login.host}, as “mill”`, 'keep;');
    store.$client.exec("delete from handed where script like '%Oak%'");
    expect(mailboxView(store, id).last?.script).toMatchObject({ standing: { is: 'another than uploaded' } });
  });

  test('mail that was imported as a file before is not stored a second time, and has the flags of the server', async () => {
    const inbox = join(server.mail, 'cur');
    const raws = readdirSync(inbox).map((name) => readFileSync(join(inbox, name)));
    expect(raws.length).toBeGreaterThan(10);
    const stored = raws.map((raw) => Buffer.concat([Buffer.from('X-UID: 7\nStatus: RO\n'), raw]));
    await addFile('INBOX.mbox', ...stored.map((raw) => writeMboxEntry({ fromLine: FROM, raw })));
    await work();
    expect(audit().messageCount).toBe(raws.length);
    await ask({ ask: 'fetch', folders: ['INBOX'], since: null, scripts: [] });
    await run();
    expect(audit()).toMatchObject({ messageCount: raws.length, storedCount: raws.length });
    const [, fetched] = store.select().from(sources).all();
    expect(fetched).toMatchObject({ messages: 0, repeated: raws.length });
    expect(fetched?.statement).toContain('already in the folder');
    const seen = readdirSync(inbox).filter((name) => /,[A-Z]*S/.test(name)).length;
    expect(gatherView(store, id).folders).toEqual([
      { folder: 'INBOX', messages: raws.length, unseen: raws.length - seen },
    ]);
  });
});
