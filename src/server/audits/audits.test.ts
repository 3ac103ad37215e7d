import { eq } from 'drizzle-orm';
import { describe, expect, test } from 'vitest';
import {
  addFile,
  audit,
  FROM,
  fill,
  id,
  job,
  MAIL,
  SCRIPT,
  simulated,
  store,
  withAudit,
  work,
} from '../../../test/harness';
import { maybeFlow } from '../chain/simulation';
import { chainView } from '../chain/view';
import { history, makeChange, redo, undo } from '../changes/changes';
import { changesView, previewView } from '../changes/view';
import { atoms, columnPieces } from '../database/schema';
import { findingView } from '../findings/finding-view';
import { findingsView } from '../findings/list-view';
import { maybeFindings } from '../findings/results';
import { exportView, verifiedScript } from '../handover/export-view';
import { perform } from '../jobs/perform';
import { messagePage } from '../mail/list-view';
import { messageView } from '../mail/message-view';
import { Refusal } from './audits';

withAudit();

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
    const leads = findingsView(store, id).groups.map(({ lead }) => lead.kind);
    expect(leads).toEqual(expect.arrayContaining(['shadowed', 'runs-on']));
    expect(findingView(store, id, 'shadowed r2')).toMatchObject({
      split: { onlyFirst: 0, both: 1, onlySecond: 1 },
      repairs: [{ changed: 1 }, { changed: 1 }, { changed: 1 }, { changed: 0 }, { changed: 0 }],
      ways: [{ title: 'The chain as it is' }, { title: 'Move “Flood” directly before “Weir”' }],
    });
    const message = messageView(store, id, 1);
    expect(message.entries.map(({ outcome }) => outcome)).toEqual([
      'fired',
      'not reached',
      'not reached',
      'not reached',
    ]);
    const subject = message.fields.find(({ name }) => name === 'Subject');
    expect(subject?.marks).toEqual([{ span: { start: 13, end: 17 }, rules: [1], ends: [1] }]);
    expect(() => messageView(store, id, 5)).toThrow(Refusal);
  });

  test('a change: its effect beforehand, made, undone, redone', async () => {
    await fill();
    const edits = [{ kind: 'move', ids: ['r2'], from: 1, to: 0, withinRun: false }] as const;
    const preview = previewView(store, id, edits);
    expect(preview.words).toBe('Move “Flood” directly before “Weir”');
    expect(preview.comparison?.moves).toEqual([{ from: 'Weir', to: 'Inbox', count: 1 }]);
    makeChange(store, id, edits, 'because');
    expect(audit().draft.entries.map(({ name }) => name)).toEqual(['Flood', 'Weir', 'Oak', 'Beams']);
    expect(changesView(store, id).comparison?.changed).toBe(1);
    // No text was read: all tests had been evaluated before.
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
    await addFile(
      'body.sieve',
      'require "body";\n# Needle\nif body :contains ["needle", "lost"] { discard; }\n# Whole\nif body :is "words 1" { discard; }\n',
    );
    const long = `${FROM}\nSubject: long\n\n${'hay hay hay\n'.repeat(400_000)}needle\n\n`;
    const encoded = `${FROM}\nSubject: encoded\nContent-Transfer-Encoding: base64\n\nYSBuZWVkbGU=\n\n`;
    await addFile('INBOX.mbox', MAIL + long + encoded);
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
    await addFile(
      'r.sieve',
      'require ["fileinto", "reject"];\nfileinto "a";\nif header :contains "subject" "oak" { reject "no"; }\n',
    );
    await addFile('INBOX.mbox', MAIL);
    await work();
    await perform(store, job(), { kind: 'simulate' });
    expect(messageView(store, id, 3).error).toBe('a rejection together with a delivery (RFC 5429 section 2)');
    expect(messageView(store, id, 0).error).toBe(null);
  });

  test('refusals, replies and script blocks are seen in the flow', async () => {
    await addFile(
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
    await addFile('INBOX.mbox', addressed);
    await work();
    await perform(store, job(), { kind: 'simulate' });
    const view = chainView(store, id);
    expect(view.rungs.map(({ kind, deed, counts }) => [kind, deed, counts?.fired])).toEqual([
      ['script', 'as the script says', 1],
      ['rule', 'rejects', 1],
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

  test('a rule for one account: weighed first, kept as a test, taken back', async () => {
    await addFile('rules.sieve', SCRIPT);
    const to = (address: string) => `${FROM}\nDelivered-To: ${address}\nSubject: oak for ${address}\n\n\n`;
    await addFile('INBOX.mbox', to('me@mill.example') + to('office@mill.example'));
    await work();
    await simulated();
    const edit = { kind: 'account', id: 'r3', from: null, to: 'me@mill.example' } as const;
    expect(previewView(store, id, [edit]).comparison).toBeNull();
    await perform(store, job(), { kind: 'weigh', edits: [edit] });
    expect(previewView(store, id, [edit])).toMatchObject({
      words: 'Apply “Oak” only to mail to me@mill.example',
      comparison: { changed: 1, moves: [{ from: 'Oak', to: 'Inbox', count: 1 }] },
    });
    makeChange(store, id, [edit], '');
    expect(chainView(store, id).rungs[2]?.account).toBe('me@mill.example');
    expect(() => makeChange(store, id, [edit], '')).toThrow('no longer has the account');
    expect(() => makeChange(store, id, [{ ...edit, from: edit.to, to: 'no address' }], '')).toThrow(
      'not a single complete',
    );
    undo(store, id);
    expect(chainView(store, id).rungs[2]?.account).toBeNull();
  });
});
