import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  addFile,
  asked,
  audit,
  body,
  FROM,
  fill,
  goTo,
  id,
  runner,
  simulated,
  store,
  withAudit,
  work,
} from '../../../test/harness';
import { ownJson } from '../../core/text/lookup';
import { chainAsDocument } from '../../files/chain-document';
import { makeChange, undo } from '../changes/changes';
import { keepExpectation } from '../changes/expectations';
import { keepVersion } from '../changes/versions';
import { changesView } from '../changes/view';
import { databaseFile } from '../database/open';
import { messages, sources } from '../database/schema';
import { importArchive } from '../gather/import-file';
import { gatherView } from '../gather/view';
import { keepAnnounced } from '../handover/announced';
import { exportView } from '../handover/export-view';
import { handoverSettings, keepHandoverSettings } from '../handover/handover';
import { keepProbe } from '../mail/probes';
import { maybeRaw } from '../mail/raw';
import { archiveOf, archiveText } from './archive';
import { archiveSchema } from './archive-shape';
import { getAudit, listAudits, Refusal } from './audits';

withAudit();

async function filled(): Promise<void> {
  await fill();
  makeChange(
    store,
    id,
    [{ kind: 'list', id: 'l', from: null, to: { id: 'l', name: 'Team', keys: ['a@x.example'] } }],
    '',
  );
  makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], 'why');
  makeChange(store, id, [{ kind: 'switch', id: 'r2', on: false }], '');
  undo(store, id);
  keepVersion(store, id, 'one');
  keepExpectation(store, id, { name: 'all', tests: { kind: 'all', children: [] }, must: { must: 'not be dropped' } });
  keepProbe(store, id, 'probe', Buffer.from([0x46, 0xff, 0x0d, 0x0a]), null);
  keepHandoverSettings(store, id, { ...handoverSettings(store, id), target: 'core' });
}

const written = (withMail: boolean): string => [...archiveText(store, id, withMail)].join('');
/** Files that the server keeps aside. */
const uploads = () => readdirSync(join(dirname(databaseFile()), 'uploads'));
const opened = (text: string) => importArchive(store, runner, body(text));

describe('an archive', () => {
  test('is read back as the same audit, but for its mail', async () => {
    await filled();
    const archive = archiveOf(store, id);
    const made = await opened(written(false));
    expect(asked).toEqual([{ kind: 'simulate' }]);
    expect(archiveOf(store, made)).toEqual(archive);
    const { draft, messageCount } = getAudit(store, made);
    expect([draft, messageCount]).toEqual([audit().draft, 0]);
  });

  test('keeps the target that a server announced, and says nothing where none is known', async () => {
    await addFile('rules.sieve', 'keep;');
    expect(archiveOf(store, id).handover).toBeNull();
    keepAnnounced(store, id, 'a.example', { sieve: ['fileinto', 'copy'], maxRedirects: 4 });
    const made = await opened(written(false));
    expect(handoverSettings(store, made)).toEqual(handoverSettings(store, id));
    expect(handoverSettings(store, made)).toMatchObject({
      target: 'own',
      capabilities: ['fileinto', 'copy'],
      limits: { redirects: 4 },
    });
  });

  test.each([
    ['cut off', (text: string) => text.slice(0, -20), 'not JSON, or it is truncated'],
    ['of another kind', () => '{"format":"other"}', 'not an exported audit'],
    ['of another version', (text: string) => text.replace('"version":1', '"version":2'), 'has version 2'],
    [
      'with a rule that is none',
      (text: string) => text.replace('"ending":"stop"', '"ending":"perhaps"'),
      'damaged at baseline.entries.0',
    ],
    [
      'with changes that do not fit',
      (text: string) => text.replace('"id":"r1","on":false', '"id":"r9","on":false'),
      'do not fit its rules',
    ],
  ])('%s is told, and nothing is made of it', async (_what, damage, told) => {
    await filled();
    const text = damage(JSON.stringify(archiveOf(store, id)));
    const before = uploads();
    await expect(opened(text)).rejects.toThrow(told);
    expect(listAudits(store)).toHaveLength(1);
    expect(uploads()).toEqual(before);
  });

  test('with mail brings every message, byte for byte, with its folder, flags and marks', async () => {
    await filled();
    const odd = `${FROM}\nSubject: \xff\0odd\nStatus: RO\n\nnot ended`;
    await addFile('Yard/Odd.mbox', Buffer.from(odd, 'latin1'));
    await work();
    const facts = (auditId: string) =>
      store
        .select()
        .from(messages)
        .where(eq(messages.auditId, auditId))
        .orderBy(messages.number)
        .all()
        .map(({ auditId: _audit, sourceId: _source, ...row }) => ({
          ...row,
          raw: maybeRaw(store, auditId, row.number)?.toString('latin1'),
        }));
    const before = facts(id);
    const text = written(true);
    goTo(await opened(text));
    await work();
    expect(facts(id)).toEqual(before);
    expect(before).toHaveLength(6);
    expect(getAudit(store, id).messageCount).toBe(6);
    expect(JSON.parse(written(true))).toEqual(JSON.parse(text));
  });

  test.each([
    ['cut off within its mail', (text: string) => text.slice(0, -300), null],
    [
      'with a message that is none',
      (text: string) => text.replace('"raw":"', '"raw":"*'),
      'message 1 is damaged at raw',
    ],
    [
      'with a message without a folder',
      (text: string) => text.replaceAll('"folder":"INBOX",', ''),
      'damaged at folder',
    ],
  ])('%s is told, and none of its mail is kept', async (_what, damage, told) => {
    await filled();
    const text = damage(written(true));
    if (told === null) {
      await expect(opened(text)).rejects.toThrow('not JSON, or it is truncated');
      return;
    }
    goTo(await opened(text));
    await work();
    const [source] = store.select().from(sources).where(eq(sources.auditId, id)).all();
    expect(source).toMatchObject({ state: 'refused', messages: 0, statement: expect.stringContaining(told) });
    expect(getAudit(store, id).messageCount).toBe(0);
  });

  test('that is larger than what is read whole is read as a stream', async () => {
    await filled();
    const mail = written(true);
    const at = mail.indexOf('"mail": [') + '"mail": ['.length;
    const row = (n: number) => {
      const raw = Buffer.from(`Subject: ${n}\n\n${'x'.repeat(3_000_000)}`).toString('base64');
      return JSON.stringify({ folder: 'Big', flags: [], received: null, fromLine: null, oddities: [], raw });
    };
    const parts = [mail.slice(0, at), ...Array.from({ length: 18 }, (_, n) => `${row(n)},`), mail.slice(at)];
    const before = audit().draft;
    goTo(await importArchive(store, runner, body(...parts)));
    await work();
    expect(getAudit(store, id).messageCount).toBe(23);
    expect(maybeRaw(store, id, 17)?.subarray(0, 11).toString()).toBe('Subject: 17');
    expect(audit().draft).toEqual(before);
  });

  test('of earlier programs, without what came later, is read too', async () => {
    await filled();
    const { draft: _draft, asides: _asides, handed: _handed, scripts: _scripts, ...early } = archiveOf(store, id);
    const made = await opened(JSON.stringify(early));
    expect(getAudit(store, made).draft).toEqual(audit().draft);
  });

  test('dropped into an audit is refused with the way to open it; rules in JSON are taken', async () => {
    await fill();
    await expect(addFile('audit.json', written(true))).rejects.toThrow('drop it on the first page');
    await expect(addFile('else.json', '{"a": 1}')).rejects.toThrow('JSON of another kind');
    await expect(addFile('cut.json', chainAsDocument(audit().draft).slice(0, -9))).rejects.toThrow('contains no rules');
    await addFile('rules.json', chainAsDocument(audit().draft));
    expect(audit().draft.entries.map(({ name }) => name)).toEqual([
      'Weir',
      'Flood',
      'Oak',
      'Beams',
      'Weir',
      'Flood',
      'Oak',
      'Beams',
    ]);
  });

  test('its published schema is the one that is read here', () => {
    const published = readFileSync(join(import.meta.dirname, '../../../docs/audit.schema.json'), 'utf8');
    expect(JSON.parse(published)).toEqual(JSON.parse(JSON.stringify(archiveSchema())));
  });
});

/** Replaces or removes a value somewhere in a document. */
function damaged(text: string, way: readonly number[], value: unknown): string {
  const document = ownJson<Record<string, unknown>>(text);
  let at = document;
  for (const [step, pick] of way.entries()) {
    const keys = Object.keys(at);
    const key = keys[pick % keys.length];
    if (key === undefined) break;
    const inner = at[key];
    const isLast = step === way.length - 1 || typeof inner !== 'object' || inner === null;
    if (isLast) {
      if (value !== undefined) at[key] = value;
      else if (Array.isArray(at)) at.splice(Number(key), 1);
      else delete at[key];
      break;
    }
    at = inner as Record<string, unknown>;
  }
  return JSON.stringify(document);
}

const WRONG = [undefined, null, 0, -1, 1e21, 1.5, '', 'x', 'r1', 'l', '\ud800', '\0', true, [], {}, [null], ['x', 'x']];

test('an archive damaged at any place is refused, or opens as an audit that can be looked at and taken away', async () => {
  await filled();
  const whole = written(true);
  let refused = 0;
  const way = fc.array(fc.nat(1000), { minLength: 1, maxLength: 9 });
  await fc.assert(
    fc.asyncProperty(way, fc.constantFrom(...WRONG), async (where, value) => {
      asked.length = 0;
      const made = await opened(damaged(whole, where, value)).catch((error: unknown) => {
        if (!(error instanceof Refusal)) throw error;
        refused++;
        return null;
      });
      if (made === null) return;
      goTo(made);
      await work();
      await simulated();
      gatherView(store, made);
      changesView(store, made);
      exportView(store, made);
      await opened(written(true));
    }),
    { numRuns: 200 },
  );
  expect(refused).toBeGreaterThan(50);
});
