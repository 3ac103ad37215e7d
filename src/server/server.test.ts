import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { eq } from 'drizzle-orm';
import { pack } from 'tar-stream';
import { afterAll, beforeEach, describe, expect, test, vi } from 'vitest';
import { ZipFile } from 'yazl';
import { splitMbox } from '../core/mail/mbox';
import { type RewriteEdit, readRewrite } from '../core/rules/rewrite';
import type { Rule } from '../core/rules/rule';
import { parse } from '../core/sieve/parse';
import { writeXml } from '../core/sieve/xml';
import { type Audit, createAudit, getAudit, Refusal } from './audits';
import { bringFile } from './bring';
import { history, makeChange, redo, undo } from './changes';
import { migrateStore, openStore, type Store } from './database/open';
import { atoms, columnPieces, messages, rawPieces, sources } from './database/schema';
import { guarded, readJson } from './http';
import { Cancelled, type JobContext, type JobRequest } from './jobs/job';
import { perform } from './jobs/perform';
import { JobRunner } from './jobs/runner';
import { maybeRaw } from './raw';
import { auditNameShape, editsShape } from './shapes';
import { maybeFindings, maybeFlow } from './simulation';
import { messageOctets, messagesAsMbox } from './take-out';
import { chainView } from './views/chain';
import { changesView, previewView } from './views/changes';
import { exportView, verifiedScript } from './views/export';
import { findingsView, findingView } from './views/findings';
import { gatherView } from './views/gather';
import { messagePage } from './views/mail';
import { messageView } from './views/message';
import { maybeScriptView } from './views/script';

const root = mkdtempSync(join(tmpdir(), 'audits-'));
afterAll(() => rmSync(root, { recursive: true, force: true }));

let store: Store;
let id: string;
let asked: JobRequest[];
const runner = { start: (_audit: string, request: JobRequest) => String(asked.push(request)) };
const job = (checkpoint = () => {}): JobContext => ({ auditId: id, report: () => {}, checkpoint });
let databases = 0;

beforeEach(() => {
  const file = join(root, `${databases++}`, 'test.sqlite');
  vi.stubEnv('YSOMERIS_DATABASE', file);
  store = openStore(file);
  migrateStore(store);
  id = createAudit(store, 'test');
  asked = [];
});

async function* body(...parts: (string | Uint8Array)[]) {
  for (const part of parts) yield typeof part === 'string' ? new TextEncoder().encode(part) : part;
}
const bring = (name: string, ...parts: (string | Uint8Array)[]) => bringFile(store, runner, id, name, body(...parts));
/** Does all that was asked for, as the runner would. */
async function work(): Promise<void> {
  for (let request = asked.shift(); request; request = asked.shift()) await perform(store, job(), request);
}
const audit = (): Audit => getAudit(store, id);

const SCRIPT = `require ["fileinto"];
# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }
# Flood
if header :contains "subject" "flood at the weir" { keep; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; }
# Beams
if header :contains "subject" "beam" { fileinto "Beams"; }
`;
const FROM = 'From x@y.example Thu Jan  1 10:00:00 2026';
const SUBJECTS = ['weir', 'flood at the weir', 'oak beam', 'oak', 'nothing'];
const MAIL = SUBJECTS.map(
  (subject, n) =>
    `${FROM}\nFrom: Ann <a@x.example>\nSubject: ${subject}\nDate: Thu, ${n + 1} Jan 2026 10:00:00 +0000\n\nwords ${n}\n\n`,
).join('');

async function fill(): Promise<void> {
  await bring('rules.sieve', SCRIPT);
  await bring('INBOX.mbox', MAIL);
  await work();
  await perform(store, job(), { kind: 'simulate' });
}

describe('bringing scripts in', () => {
  test('a broken one: every fault with its place, the readable rest, the rest word for word', async () => {
    const said = await bring('rules.sieve', 'keep;\nif vanish { discard; }\nfileinto "x"\nstop;');
    expect(said.statement).toBe('“rules.sieve”: 2 rules, 2 kept word for word, 2 faults.');
    const view = gatherView(store, id);
    expect(view.scripts[0]?.faults.map((fault) => fault.split(': ')[0])).toEqual(['2:4', '3:13']);
    expect(view.keptWords.map(({ text }) => text)).toEqual(['if vanish { discard; }', 'fileinto "x"']);
  });

  test.each([
    ['an empty file', 'a.sieve', [''], 'is empty'],
    ['a picture', 'a.sieve', [Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 13, 10])], 'a PNG picture'],
    ['rubbish', 'a.bin', [Uint8Array.from({ length: 3000 }, (_, n) => (n * 7919) & 255)], 'neither a Sieve script nor'],
    ['prose', 'a.txt', ['This is a letter, no script.'], 'neither a Sieve script nor'],
    ['a script of comments', 'a.sieve', ['# nothing\n'], 'holds no rules'],
  ])('%s is refused in plain words', async (_what, name, parts, words) => {
    await expect(bring(name, ...parts)).rejects.toThrow(words);
    expect(readdirSync(join(root, String(databases - 1), 'uploads'))).toEqual([]);
  });

  test('the same file twice is said; a second script comes behind the first', async () => {
    await bring('a.sieve', 'keep;');
    await expect(bring('b.sieve', 'keep;')).rejects.toThrow('brought in before, as “a.sieve”');
    await bring('c.sieve', 'stop;');
    expect(audit().draft.entries.map((entry) => entry.id)).toEqual(['r1', 'r2']);
  });
});

describe('Sieve in XML (RFC 5784)', () => {
  test('is brought in as the script it stands for', async () => {
    await bring('rules.xml', writeXml(parse(SCRIPT).script));
    await expect(bring('odd.xml', '<?xml version="1.0"?><sieve><control name="stop">')).rejects.toThrow(
      'no script in XML',
    );
    expect(audit().draft.entries.map((entry) => entry.name)).toEqual(['Weir', 'Flood', 'Oak', 'Beams']);
  });
});

describe('rewriting a part of the chain', () => {
  const rewrite = (id: string, change: (text: string) => string): RewriteEdit => {
    const { chain, ids, text } = maybeScriptView(store, audit().id, id) ?? expect.fail('no such rule');
    return readRewrite(chain, ids, change(text)).edit ?? expect.fail('nothing changed');
  };
  const overTheWire = (edit: unknown) => editsShape.parse(JSON.parse(JSON.stringify({ edits: [edit] }))).edits;

  test('what it would change is weighed before it is made; undone, all is as before', async () => {
    await fill();
    const before = audit().draft;
    const edits = overTheWire(rewrite('r3', (text) => text.replace('"oak"', '["oak", "nothing"]')));
    expect(previewView(store, id, edits).comparison).toBe(null);
    await perform(store, job(), { kind: 'weigh', edits });
    expect(previewView(store, id, edits).comparison).toMatchObject({ changed: 1, total: 5 });
    makeChange(store, id, edits, '');
    expect(changesView(store, id).history[0]).toMatchObject({ words: 'Rewrite “Oak”', changedMessages: 1 });
    undo(store, id);
    expect(audit().draft).toEqual(before);
  });

  test('a script brought in afterwards stands behind it, and ids stay unique', async () => {
    await fill();
    makeChange(store, id, overTheWire(rewrite('r1', (text) => `${text}\n# New\nkeep;\n# closing words\n`)), '');
    await bring('more.sieve', '# Last\nstop;\n# more closing words\n');
    const { entries, closing } = audit().draft;
    expect(entries.map((entry) => entry.name)).toEqual(['Weir', 'New', 'Flood', 'Oak', 'Beams', 'Last']);
    expect(new Set(entries.map((entry) => entry.id)).size).toBe(6);
    expect(closing.split('\n').sort()).toEqual(['closing words', 'more closing words']);
  });

  test('what is no Sieve, or was made for another chain, is refused and changes nothing', async () => {
    await fill();
    const edit = rewrite('r1', (text) => text.replace('"Weir"', '"Elsewhere"'));
    const [rule] = edit.after as [Rule];
    const hostile: unknown[] = [
      {
        ...edit,
        after: [{ ...rule, tests: { kind: 'leaf', test: { test: 'sieve', text: 'true { discard; } if true' } } }],
      },
      { ...edit, after: [{ ...rule, actions: [{ action: 'sieve', name: 'vacation', text: 'vanish;' }] }] },
      { ...edit, after: [{ ...rule, actions: [{ action: 'redirect', address: 'nobody', copy: false }] }] },
      { ...edit, after: [rule, { ...rule, id: 'r2' }] },
      { ...edit, before: [{ ...edit.before[0], name: 'Another' }] },
      { ...edit, from: 99 },
    ];
    for (const one of hostile) expect(() => makeChange(store, id, overTheWire(one), '')).toThrow(Refusal);
    expect(() => overTheWire({ ...edit, after: [{ ...rule, on: 'yes' }] })).toThrow();
    expect(() => overTheWire({ ...edit, after: [{ kind: 'rule' }] })).toThrow();
    expect(audit().draft).toEqual(audit().baseline);
  });

  test('there is no text of a rule that is not there', async () => {
    await bring('a.sieve', 'keep;');
    expect(maybeScriptView(store, id, 'r9')).toBe(null);
    expect(maybeScriptView(store, id, null)?.text).toContain('keep;');
  });
});

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
    await bring('mail.zip', await collected(zip.outputStream as AsyncIterable<Buffer>));
    await work();
    const [source] = gatherView(store, id).sources;
    expect(source).toMatchObject({ state: 'ready', messages: 8 });
    expect(source?.statement).toContain(
      'Passed over: “letters/picture.png” (no mail), “inner.zip” (an archive within an archive).',
    );
    expect(places()).toEqual(
      [
        'Archive/2020: two',
        'INBOX: one',
        ...SUBJECTS.map((subject) => `Suppliers/Oak: ${subject}`),
        'letters: three',
      ].sort(),
    );
    expect((await messageView(store, id, 5)).flags).toEqual(['\\flagged', '\\seen']);
  });

  test('a compressed tar archive with a path that leads out of it, and with a link', async () => {
    const archive = pack();
    archive.entry({ name: '../../oak/x.eml' }, eml('out'));
    archive.entry({ name: 'loop', type: 'symlink', linkname: 'loop' });
    archive.entry({ name: 'weir.mbox' }, MAIL);
    archive.finalize();
    await bring('mail.tar.gz', gzipSync(await collected(archive as AsyncIterable<Buffer>)));
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({
      messages: 6,
      statement: 'Passed over: “loop” (a link or a device, no file).',
    });
    expect(places().filter((place) => place.startsWith('oak'))).toEqual(['oak: out']);
  });

  test('a compressed mbox, and a message by itself', async () => {
    await bring('Oak.mbox.gz', gzipSync(MAIL));
    await bring('letter.eml', eml('letter'));
    await work();
    expect(places()).toEqual(['INBOX: letter', ...SUBJECTS.map((subject) => `Oak: ${subject}`)].sort());
    expect(gatherView(store, id).sources.map(({ statement }) => statement)).toEqual(['', '']);
  });

  test('what is taken out is what was brought in, byte for byte', async () => {
    const odd = `${FROM}\nSubject: quoted\n\n>From here\n>>From there\nFrom now\n\n`;
    await bring('INBOX.mbox', MAIL + odd);
    await bring('letter.eml', `${eml('letter')}no line end`);
    await work();
    expect(messageOctets(store, id, 6).toString()).toBe(`${eml('letter')}no line end`);
    expect(() => messageOctets(store, id, 7)).toThrow('no such message');
    const all = Buffer.concat([...messagesAsMbox(store, id, { offset: 0, limit: 1, part: 'fired' })]);
    const again = [...splitMbox(all)];
    expect(again.map(({ raw }) => Buffer.from(raw).toString())).toEqual(
      // An mbox cannot hold a message whose last line has no end.
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
        ? await collected(zip.outputStream as AsyncIterable<Buffer>)
        : gzipSync(name.includes('tar') ? await collected(archive as AsyncIterable<Buffer>) : big);
      await bring(name, content);
      let calls = 0;
      const cancelling = job(() => {
        if (++calls > 1) throw new Cancelled();
      });
      await expect(perform(store, cancelling, asked.shift() as JobRequest)).rejects.toThrow('cancelled');
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
      gzipSync(Buffer.concat([Buffer.from(MAIL), Buffer.alloc(300 * 1024 * 1024, 'a')])),
      'unpacks to more than two hundred times its size',
    ],
  ])('%s leaves nothing, and says why', async (_what, name, content, words) => {
    await bring(name, content);
    await work();
    const [source] = gatherView(store, id).sources;
    expect(source?.state).toBe('refused');
    expect(source?.statement).toContain(words);
    expect(store.select().from(messages).all()).toEqual([]);
  });

  test('every octet is kept, folders and counts are known', async () => {
    await bring('Weir.mbox', MAIL);
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
    await bring('a.mbox', `${FROM}\n`, raw);
    await work();
    expect(maybeRaw(store, id, 0)?.equals(raw)).toBe(true);
  });

  test('a file without a separator that reads as a message is one message, and said to be odd', async () => {
    await bring('one.mbox', 'From: a@x.example\nSubject: x\n\nwords');
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({ state: 'ready', messages: 1 });
    expect(gatherView(store, id).sources[0]?.statement).toContain('before the first line that begins with “From ”');
  });

  test('a file named mbox that holds no mail is refused, and leaves nothing', async () => {
    await bring('a.mbox', 'no mail\nat all\n');
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({ state: 'refused', messages: 0 });
    expect(store.select().from(rawPieces).all()).toEqual([]);
    expect(audit().messageCount).toBe(0);
  });

  test('cancelled in the middle, it leaves nothing, and the next file is numbered from the same place', async () => {
    await bring('a.mbox', MAIL.repeat(400));
    const request = asked.shift() as JobRequest;
    let checks = 0;
    const cancelling = job(() => {
      if (++checks > 1500) throw new Cancelled();
    });
    await expect(perform(store, cancelling, request)).rejects.toThrow(Cancelled);
    expect(store.select().from(messages).all()).toEqual([]);
    expect(store.select().from(columnPieces).all()).toEqual([]);
    expect(store.select().from(sources).all()[0]?.state).toBe('cancelled');
    await bring('b.mbox', MAIL);
    await work();
    expect(audit().messageCount).toBe(5);
    expect(maybeRaw(store, id, 0)?.toString()).toContain('Subject: weir');
  });

  test('what a killed process left behind is taken back at the next start', async () => {
    await fill();
    await bring('b.mbox', `${MAIL}${FROM}\nSubject: more\n\nmore\n`);
    const request = asked.shift() as Extract<JobRequest, { kind: 'import' }>;
    // As if the process had died after the first batch: rows are there, the source is still being read.
    await perform(store, job(), request);
    store.update(sources).set({ state: 'importing' }).run();
    store.$client.exec(
      `update audit set message_count = 5; update source set state = 'ready' where file_name = 'INBOX.mbox'`,
    );
    new JobRunner(store).recover();
    expect(store.select().from(messages).all()).toHaveLength(5);
    expect(gatherView(store, id).sources.map(({ state }) => state)).toEqual(['ready', 'interrupted']);
    expect(maybeFlow(store, audit(), audit().draft)).not.toBeNull();
  });

  test('a second file is added, and what was evaluated before is evaluated anew', async () => {
    await fill();
    await bring('More.mbox', `${FROM}\nSubject: oak\n\n`);
    await work();
    expect(maybeFlow(store, audit(), audit().draft)).toBeNull();
    expect(chainView(store, id).simulated).toBe(false);
    await perform(store, job(), { kind: 'simulate' });
    expect(messagePage(store, id, { offset: 0, limit: 10, part: 'fired', rule: 'r3' }).found).toBe(3);
  });
});

describe('the audit', () => {
  test('flow, findings, a message with its evidence', async () => {
    await fill();
    const view = chainView(store, id);
    expect(view.rungs.map(({ counts }) => [counts?.passing, counts?.fired, counts?.stopped])).toEqual([
      [5, 2, 2],
      [3, 0, 0],
      [3, 2, 0],
      [3, 1, 0],
    ]);
    expect(view.foot).toEqual({ left: 3, implicitKeep: 1 });
    expect(findingsView(store, id).findings.map(({ kind }) => kind)).toEqual(['shadowed', 'runs-on']);
    expect(findingView(store, id, 'shadowed r2')).toMatchObject({
      split: { onlyFirst: 0, both: 1, onlySecond: 1 },
      repairs: [{ changed: 1 }, { changed: 1 }, { changed: 0 }],
    });
    const message = await messageView(store, id, 1);
    expect(message.entries.map(({ outcome }) => outcome)).toEqual([
      'fired',
      'not reached',
      'not reached',
      'not reached',
    ]);
    const subject = message.fields.find(({ name }) => name === 'Subject');
    expect(subject?.marks).toEqual([{ span: { start: 13, end: 17 }, rules: [1], ends: [1] }]);
    await expect(messageView(store, id, 5)).rejects.toThrow(Refusal);
  });

  test('a change: its effect beforehand, made, undone, redone', async () => {
    await fill();
    const edits = [{ kind: 'move', ids: ['r2'], from: 1, to: 0, withinRun: false }] as const;
    const preview = previewView(store, id, edits);
    expect(preview.words).toBe('Move “Flood” to directly before “Weir”');
    expect(preview.comparison?.moves).toEqual([{ from: 'Weir', to: 'Inbox', count: 1 }]);
    makeChange(store, id, edits, 'because');
    expect(audit().draft.entries.map(({ name }) => name)).toEqual(['Flood', 'Weir', 'Oak', 'Beams']);
    expect(changesView(store, id).comparison?.changed).toBe(1);
    // No text was read for it: all tests had been evaluated before.
    expect(maybeFlow(store, audit(), audit().draft)).not.toBeNull();
    expect(maybeFindings(store, audit(), audit().draft)).toBeNull();
    expect(() => makeChange(store, id, edits, '')).toThrow('no longer fits');
    expect(undo(store, id)).toBe(true);
    expect(undo(store, id)).toBe(false);
    expect(audit().draft).toEqual(audit().baseline);
    expect(redo(store, id)).toBe(true);
    makeChange(store, id, [{ kind: 'switch', id: 'r4', on: false }], '');
    expect(undo(store, id) && undo(store, id)).toBe(true);
    makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], '');
    expect(redo(store, id)).toBe(false);
    expect(history(store, id)).toHaveLength(1);
  });

  test('the script is handed out only once it was verified on all mail', async () => {
    await fill();
    expect(() => verifiedScript(store, id)).toThrow('not verified yet');
    await perform(store, job(), { kind: 'verify' });
    expect(exportView(store, id).verification).toMatchObject({ verified: true, sameFate: 5, messages: 5 });
    expect(verifiedScript(store, id)).toContain('# Flood');
    makeChange(store, id, [{ kind: 'switch', id: 'r2', on: false }], '');
    expect(() => verifiedScript(store, id)).toThrow('not verified yet');
  });

  test('tests of the text look at what was kept of it, at long messages themselves, and at those of older databases', async () => {
    await bring(
      'body.sieve',
      'require "body";\n# Needle\nif body :contains ["needle", "lost"] { discard; }\n# Whole\nif body :is "words 1" { discard; }\n',
    );
    const long = `${FROM}\nSubject: long\n\n${'hay hay hay\n'.repeat(400_000)}needle\n\n`;
    const encoded = `${FROM}\nSubject: encoded\nContent-Transfer-Encoding: base64\n\nYSBuZWVkbGU=\n\n`;
    await bring('INBOX.mbox', MAIL + long + encoded);
    await work();
    const fired = async () => {
      await perform(store, job(), { kind: 'simulate' });
      return chainView(store, id).rungs.map(({ counts }) => counts?.fired);
    };
    expect(await fired()).toEqual([2, 0]);
    store.delete(columnPieces).where(eq(columnPieces.column, 'text')).run();
    store.delete(atoms).run();
    expect(await fired()).toEqual([2, 0]);
  });

  test('a chain that ends with an error on a message says so', async () => {
    await bring(
      'r.sieve',
      'require ["fileinto", "reject"];\nfileinto "a";\nif header :contains "subject" "oak" { reject "no"; }\n',
    );
    await bring('INBOX.mbox', MAIL);
    await work();
    await perform(store, job(), { kind: 'simulate' });
    expect((await messageView(store, id, 3)).error).toBe('a refusal together with a delivery (RFC 5429 section 2)');
    expect((await messageView(store, id, 0)).error).toBe(null);
  });

  test('refusals, replies and script blocks are seen in the flow', async () => {
    await bring(
      'more.sieve',
      `require ["fileinto", "variables", "vacation", "reject"];
# Named
if header :matches "subject" "oak *" { fileinto "\${1}"; stop; }
# No
if header :contains "subject" "nothing" { reject "no"; }
# Away
if header :contains "subject" "weir" { vacation :addresses "me@mill.example" "away"; }
`,
    );
    const addressed = MAIL.replaceAll('From: Ann', 'Return-Path: <a@x.example>\nTo: me@mill.example\nFrom: Ann');
    await bring('INBOX.mbox', addressed);
    await work();
    await perform(store, job(), { kind: 'simulate' });
    const view = chainView(store, id);
    expect(view.rungs.map(({ kind, deed, counts }) => [kind, deed, counts?.fired])).toEqual([
      ['script', 'as its script says', 1],
      ['rule', 'refuses', 1],
      ['rule', 'answers', 2],
    ]);
    expect(view.destinations.filter(({ count }) => count > 0).map(({ key, count }) => [key, count])).toEqual([
      ['inbox', 3],
      ['folder:beam', 1],
      ['refused', 1],
    ]);
    expect(messagePage(store, id, { offset: 0, limit: 9, part: 'fired', fate: 'refused' }).found).toBe(1);
    await perform(store, job(), { kind: 'verify' });
    expect(exportView(store, id).verification).toMatchObject({ verified: true });
  });

  test('filters of messages', async () => {
    await fill();
    const found = (query: object) => {
      return messagePage(store, id, { offset: 0, limit: 10, part: 'fired', ...query }).rows.map(({ number }) => number);
    };
    expect(found({})).toEqual([4, 3, 2, 1, 0]);
    expect(found({ rule: 'r2', part: 'held' })).toEqual([1]);
    expect(found({ fate: 'folder:Oak' })).toEqual([3, 2]);
    expect(found({ fate: 'inbox', search: '%' })).toEqual([]);
    expect(found({ search: 'OAK' })).toEqual([3, 2]);
    expect(found({ finding: 'runs-on r3 r4' })).toEqual([2]);
    expect(() => found({ rule: 'r9' })).toThrow(Refusal);
  });
});

describe('the gate of the route handlers', () => {
  const answer = guarded<undefined>(async (request) => Response.json(await readJson(request, auditNameShape)));
  const ask = (headers: Record<string, string>, text = '{"name":"x"}') =>
    answer(new Request('http://h/', { method: 'POST', body: text, headers }), undefined);
  const home = { host: '127.0.0.1:3000' };

  test.each([
    ['this machine', { ...home, origin: 'http://127.0.0.1:3000' }, 200],
    ['no browser', home, 200],
    ['a foreign page', { ...home, origin: 'http://evil.example' }, 403],
    ['another port', { ...home, origin: 'http://127.0.0.1:4000' }, 403],
    ['a page without a name', { ...home, origin: 'null' }, 403],
    ['a foreign name for this machine', { host: 'evil.example', origin: 'http://evil.example' }, 403],
  ])('%s', async (_who, headers, status) => {
    expect((await ask(headers)).status).toBe(status);
  });

  test('what is not well formed is told', async () => {
    expect((await ask(home, '{')).status).toBe(400);
    expect(await (await ask(home, '{"name":""}')).json()).toMatchObject({ error: expect.stringContaining('name') });
    expect(editsShape.safeParse({ edits: [{ kind: 'move', ids: [], from: 0, to: 0, withinRun: false }] }).success).toBe(
      false,
    );
  });
});
