import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { addFile, audit, databases, fill, id, job, root, SCRIPT, store, withAudit } from '../../../test/harness';
import { type RewriteEdit, readRewrite } from '../../core/rules/rewrite';
import { parse } from '../../core/sieve/parse';
import { writeXml } from '../../core/sieve/xml';
import { Refusal } from '../audits/audits';
import { maybeScriptView } from '../chain/script-view';
import { makeChange, undo } from '../changes/changes';
import { changesView, previewView } from '../changes/view';
import { editsShape } from '../http/shapes';
import { perform } from '../jobs/perform';
import { gatherView } from './view';

withAudit();

describe('bringing scripts in', () => {
  test('a broken one: every fault with its place, the readable rest, the rest word for word', async () => {
    const said = await addFile('rules.sieve', 'keep;\nif vanish { discard; }\nfileinto "x"\nstop;');
    expect(said.statement).toBe('“rules.sieve”: 2 rules, 2 kept word for word, 2 faults.');
    const view = gatherView(store, id);
    expect(view.scripts[0]?.faults.map(({ words }) => words.split(': ')[0])).toEqual(['2:4', '3:13']);
    expect(view.keptWords.map(({ text }) => text)).toEqual(['if vanish { discard; }', 'fileinto "x"']);
  });

  test.each([
    ['an empty file', 'a.sieve', [''], 'is empty'],
    ['a picture', 'a.sieve', [Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 13, 10])], 'a PNG picture'],
    ['rubbish', 'a.bin', [Uint8Array.from({ length: 3000 }, (_, n) => (n * 7919) & 255)], 'neither rules nor mail'],
    ['prose', 'a.txt', ['This is a letter, no script.'], 'neither rules nor mail'],
    ['a script of comments', 'a.sieve', ['# nothing\n'], 'contains no rules'],
  ])('%s is refused in plain words', async (_what, name, parts, words) => {
    await expect(addFile(name, ...parts)).rejects.toThrow(words);
    expect(readdirSync(join(root, String(databases - 1), 'uploads'))).toEqual([]);
  });

  test('the same file twice is said; a second script comes behind the first', async () => {
    await addFile('a.sieve', 'keep;');
    await expect(addFile('b.sieve', 'keep;')).rejects.toThrow('imported before, as “a.sieve”');
    await addFile('c.sieve', 'stop;');
    expect(audit().draft.entries.map((entry) => entry.id)).toEqual(['r1', 'r2']);
  });
});

describe('Sieve in XML (RFC 5784)', () => {
  test('is brought in as the script it stands for', async () => {
    await addFile('rules.xml', writeXml(parse(SCRIPT).script));
    await expect(addFile('odd.xml', '<?xml version="1.0"?><sieve><control name="stop">')).rejects.toThrow(
      'not a valid script in XML',
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
    await addFile('more.sieve', '# Last\nstop;\n# more closing words\n');
    const { entries, closing } = audit().draft;
    expect(entries.map((entry) => entry.name)).toEqual(['Weir', 'New', 'Flood', 'Oak', 'Beams', 'Last']);
    expect(new Set(entries.map((entry) => entry.id)).size).toBe(6);
    expect(closing.split('\n').sort()).toEqual(['closing words', 'more closing words']);
  });

  test('what is no Sieve, or was made for another chain, is refused and changes nothing', async () => {
    await fill();
    const edit = rewrite('r1', (text) => text.replace('"Weir"', '"Elsewhere"'));
    const rule = ruleAt(edit.after, 0);
    const broken = {
      test: 'compared',
      subject: { of: 'header', headers: ['subject'] },
      by: { match: 'regex', comparator: 'i;octet', keys: ['('] },
    };
    const hostile: unknown[] = [
      { ...edit, after: [{ ...rule, tests: { kind: 'leaf', test: broken } }] },
      { ...edit, after: [{ ...rule, actions: [{ action: 'vacation', reason: 'Away', from: 'nobody' }] }] },
      { ...edit, after: [{ ...rule, actions: [{ action: 'redirect', address: 'nobody', copy: false }] }] },
      { ...edit, after: [rule, { ...rule, id: 'r2' }] },
      { ...edit, before: [{ ...edit.before[0], name: 'Another' }] },
      { ...edit, from: 99 },
    ];
    for (const one of hostile) expect(() => makeChange(store, id, overTheWire(one), '')).toThrow(Refusal);
    expect(() => overTheWire({ ...edit, after: [{ ...rule, on: 'yes' }] })).toThrow();
    expect(() => overTheWire({ ...edit, after: [{ kind: 'rule' }] })).toThrow();
    const raw = { test: 'sieve', text: 'true { discard; } if true' };
    expect(() => overTheWire({ ...edit, after: [{ ...rule, tests: { kind: 'leaf', test: raw } }] })).toThrow();
    expect(audit().draft).toEqual(audit().baseline);
  });

  test('there is no text of a rule that is not there', async () => {
    await addFile('a.sieve', 'keep;');
    expect(maybeScriptView(store, id, 'r9')).toBe(null);
    expect(maybeScriptView(store, id, null)?.text).toContain('keep;');
  });
});

test('a sheet of rules is brought in like a script, with what is wrong told by its row', async () => {
  const { statement } = await addFile(
    'rules.csv',
    'Rule,Subject has,Into folder,Redirect to\nOak,oak,Oak,\nOdd,x,,nobody\n',
  );
  expect(statement).toBe('“rules.csv”: 1 rule, 1 fault.');
  expect(audit().draft.entries).toMatchObject([{ name: 'Oak', actions: [{ action: 'fileinto', folder: 'Oak' }] }]);
  await expect(addFile('other.csv', 'a,b\n1,2\n')).rejects.toThrow('no column “Rule”');
});
