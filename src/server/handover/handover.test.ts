import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { addFile, audit, id, job, MAIL, simulated, store, withAudit, work } from '../../../test/harness';
import { reportMarkdown } from '../../core/handover/report';
import { DEFAULT_CHOICES } from '../../core/handover/rewrite';
import { NO_LIMITS } from '../../core/handover/target';
import type { HandoverRecord } from '../../core/handover/verify';
import { makeChange } from '../changes/changes';
import { verifications } from '../database/schema';
import { findingView } from '../findings/finding-view';
import { findingsView } from '../findings/list-view';
import { setAside } from '../findings/set-aside';
import { messageQueryShape } from '../http/shapes';
import { perform } from '../jobs/perform';
import { messagePage } from '../mail/list-view';
import { keepAnnounced } from './announced';
import { checksOf, exportView, verifiedScript } from './export-view';
import {
  type HandoverSettings,
  handoverSettings,
  keepHanded,
  keepHandoverSettings,
  listHanded,
  maybeHanded,
  scriptHash,
} from './handover';
import { reportOf } from './report-view';

withAudit();

const RULES = `require ["fileinto", "copy", "body", "imap4flags"];
# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }
# Copies
if header :contains "subject" "oak" { fileinto :copy "Oak"; }
# Beams
if header :contains "subject" "beam" { addflag "Beam"; }
# Text
if anyof (body :contains "words 4", header :is "subject" "nothing") { fileinto "Rest"; }
`;

async function filled(): Promise<void> {
  await addFile('rules.sieve', RULES);
  await addFile('INBOX.mbox', MAIL);
  await work();
  await simulated();
}
const set = (change: Partial<HandoverSettings>) =>
  keepHandoverSettings(store, id, { ...handoverSettings(store, id), ...change });
const verify = () => perform(store, job(), { kind: 'verify' });
const costs = () => exportView(store, id).costs;
const acceptAll = () => set({ accepted: costs().flatMap(({ keys }) => keys) });

test('no proof is claimed beside a failed verification', async () => {
  await filled();
  await verify();
  const kept = store.select({ record: verifications.record }).from(verifications).get();
  const record = given(given(kept).record);
  const isClaimed = (one: HandoverRecord) => checksOf(one).some((line) => line.startsWith('Proved'));
  expect(isClaimed(record)).toBe(true);
  const failed = { ...record, sameFate: record.messages - 1 };
  expect(isClaimed(failed)).toBe(false);
  expect(checksOf(failed)).toContain(
    'The proof found no difference, but running the script did, so nothing counts as proved.',
  );
  expect(isClaimed({ ...record, faults: ['missing-require'] })).toBe(false);
  expect(isClaimed({ ...record, madeUpSame: record.madeUp - 1 })).toBe(false);
});

test('the report tells what was found, done and verified; a discreet one says no address and no word that rules look for', async () => {
  await filled();
  await verify();
  makeChange(store, id, [{ kind: 'switch', id: 'r3', on: false }], 'since a@x.example asked');
  const whole = reportMarkdown(reportOf(store, id, false));
  expect(whole).toContain('weir');
  expect(whole).toContain('a@x.example');
  const discreet = reportMarkdown(reportOf(store, id, true));
  for (const word of ['“weir”', '“oak”', 'words 4', '@']) expect(discreet).not.toContain(word);
  expect(discreet).toContain('Weir');
});

describe('a script for a target', () => {
  test('costs nothing where the target has everything, and is handed over once it was verified', async () => {
    await filled();
    await verify();
    const view = exportView(store, id);
    expect(view.costs).toEqual([]);
    expect(view.verification).toMatchObject({ verified: true, sameFate: 5, exact: 'equivalent', script: 'equivalent' });
    expect(verifiedScript(store, id)).toContain(
      '# » When the subject contains “weir”: file into “Weir”, then stop.\n# Weir\nif',
    );
    keepHanded(store, id, 'a file', view.text);
    keepHanded(store, id, 'a file', view.text);
    const [handed, another] = listHanded(store, id);
    expect(another).toBeUndefined();
    expect(maybeHanded(store, id, handed?.id ?? -1)).toBe(view.text);
  });

  test('is handed over only once each cost is accepted and each rule that cannot be said is decided', async () => {
    await filled();
    set({ target: 'core and fileinto' });
    expect(() => verifiedScript(store, id)).toThrow('not verified');
    await verify();
    expect(exportView(store, id).verification).toMatchObject({ verified: true, undeclared: 0, changed: 2 });
    expect(messagePage(store, id, messageQueryShape.parse({ costs: '1' })).found).toBe(2);
    expect(costs().map(({ name, messages, ways }) => [name, messages, ways.length])).toEqual([
      // It is kept before it is marked, and so has no mark.
      ['Copies', 1, 0],
      ['Beams', 1, 0],
      ['Text', 1, 3],
    ]);
    expect(() => verifiedScript(store, id)).toThrow('no decision yet for');
    set({ choices: { ...DEFAULT_CHOICES, unsayable: { r4: 'without' } } });
    await verify();
    expect(costs().find(({ name }) => name === 'Text')).toMatchObject({ decided: 'without', messages: 0 });
    expect(() => verifiedScript(store, id)).toThrow('are not accepted');
    acceptAll();
    expect(verifiedScript(store, id)).toMatch(/^require "fileinto";/);
    expect(verifiedScript(store, id)).toContain('fileinto "Oak";\n    keep;');
    // The acceptance was given for this draft; another one is verified again.
    makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], '');
    expect(() => verifiedScript(store, id)).toThrow('not verified');
  });

  test('what was verified is this very script, for the target that was chosen when it began', async () => {
    await filled();
    await perform(
      store,
      job(() => set({ target: 'core' })),
      { kind: 'verify' },
    );
    expect(exportView(store, id).verification).toBeNull();
    set({ target: 'common' });
    expect(exportView(store, id).verification).toMatchObject({ verified: true });
    // As an older version may have written it.
    store
      .update(verifications)
      .set({ scriptHash: scriptHash('keep;') })
      .run();
    expect(exportView(store, id).verification).toBeNull();
    expect(() => verifiedScript(store, id)).toThrow('not verified');
  });

  test('the target is the common set, then what the last server announced, until one is chosen', async () => {
    await filled();
    expect(handoverSettings(store, id)).toMatchObject({ target: 'common', capabilities: [] });
    keepAnnounced(store, id, 'a.example', { sieve: ['fileinto'], maxRedirects: 3 });
    // Other decisions leave the target to the server.
    keepHandoverSettings(store, id, { accepted: ['x'] });
    expect(handoverSettings(store, id)).toMatchObject({
      target: 'own',
      capabilities: ['fileinto'],
      limits: { redirects: 3 },
    });
    keepAnnounced(store, id, 'b.example', { sieve: ['fileinto', 'copy'], maxRedirects: null });
    expect(handoverSettings(store, id)).toMatchObject({
      capabilities: ['fileinto', 'copy'],
      limits: { redirects: null },
    });
    keepHandoverSettings(store, id, { target: 'core' });
    expect(handoverSettings(store, id)).toMatchObject({ target: 'core' });
    keepHandoverSettings(store, id, { target: 'own' });
    expect(handoverSettings(store, id)).toMatchObject({ target: 'own', capabilities: ['fileinto', 'copy'] });
    // A server that announces beyond measure is not remembered.
    const endless = Array.from({ length: 501 }, (_, n) => `x-${n}`);
    keepAnnounced(store, id, 'c.example', { sieve: endless, maxRedirects: null });
    expect(exportView(store, id).server).toMatchObject({ host: 'b.example' });
  });

  test('what it cannot be told is a finding, with the messages concerned', async () => {
    await filled();
    // Until a target is known, nothing is stated of it.
    expect(findingsView(store, id).counts.kinds['not-portable']).toBeUndefined();
    set({ target: 'core and fileinto' });
    expect(findingsView(store, id, { kind: 'not-portable' }).counts.kinds['not-portable']).toBe(3);
    const key = 'not-portable r4';
    const finding = findingView(store, id, key);
    expect(finding).toMatchObject({ kind: 'not-portable', certainty: 'observed', count: 1 });
    expect(finding?.claim).toContain('needs body');
    expect(messagePage(store, id, messageQueryShape.parse({ finding: key })).found).toBe(1);
    setAside(store, id, key, 'it is known');
    expect(findingsView(store, id).counts.kinds['not-portable']).toBe(2);
  });

  test('a copy costs nothing where the mail stays in the inbox anyway, and that is proved', async () => {
    await filled();
    set({ target: 'own', capabilities: ['fileinto', 'imap4flags', 'body'] });
    await verify();
    // “Weir” stops before, and after it only “Text” takes mail away.
    expect(costs().map(({ name, none }) => [name, none])).toEqual([['Copies', false]]);
    const off = ['r3', 'r4'].map((rule) => ({ kind: 'switch' as const, id: rule, on: false }));
    makeChange(store, id, off, '');
    await simulated();
    await verify();
    expect(costs().map(({ name, none }) => [name, none])).toEqual([['Copies', true]]);
    expect(verifiedScript(store, id)).not.toContain(':copy');
  });

  test('keeps rules that are off as comments, and is refused beyond the limits of the server', async () => {
    await filled();
    makeChange(store, id, [{ kind: 'switch', id: 'r3', on: false }], '');
    set({ choices: { ...DEFAULT_CHOICES, off: 'as comments' } });
    expect(exportView(store, id).text).toContain('# » Beams: switched off');
    set({ limits: { ...NO_LIMITS, octets: 100 } });
    await simulated();
    await verify();
    expect(() => verifiedScript(store, id)).toThrow('and the server accepts at most 100');
    expect(audit().draft.entries).toHaveLength(4);
  });
});

test('folders are called as on the server, and the script is verified under these names', async () => {
  await filled();
  const folders = {
    prefix: 'INBOX.',
    separator: '.' as const,
    renamed: { Rest: 'Other' },
    there: ['INBOX.Weir', 'Other'],
  };
  set({ choices: { ...DEFAULT_CHOICES, folders } });
  await verify();
  const view = exportView(store, id);
  expect(view.text).toContain('fileinto "INBOX.Weir"');
  expect(view.text).toContain('fileinto "Other"');
  expect(view.folders).toEqual([
    { here: 'Oak', there: 'INBOX.Oak', isMissing: true },
    { here: 'Rest', there: 'Other', isMissing: false },
    { here: 'Weir', there: 'INBOX.Weir', isMissing: false },
  ]);
  expect(view.verification).toMatchObject({ verified: true, sameFate: 5, script: 'equivalent', exact: 'equivalent' });
  expect(verifiedScript(store, id)).toBe(view.text);

  set({ choices: { ...DEFAULT_CHOICES, folders: { ...folders, renamed: { Rest: 'INBOX.Weir' } } } });
  expect(exportView(store, id).obstacles).toEqual([
    expect.stringContaining('Rest and Weir would both be “INBOX.Weir” on the server'),
  ]);
});
