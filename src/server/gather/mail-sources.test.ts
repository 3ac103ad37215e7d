import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { beforeEach, describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { addFile, audit, body, FROM, id, root, runner, simulated, store, withAudit, work } from '../../../test/harness';
import { messagesAsMbox } from '../mail/download';
import { messagePage } from '../mail/list-view';
import { storedMail } from '../mail/stored-mail';
import { importPath, readMailAgain } from './import-file';
import { removalView, removeSource, restoreSource } from './mail-sources';
import { gatherView } from './view';

/** Imported mail that is removed, restored, and read again. */

withAudit();

const mbox = (...subjects: string[]) =>
  subjects.map((subject) => `${FROM}\nFrom: ann@x.example\nSubject: ${subject}\n\nwords\n\n`).join('');
const RULES =
  '# Oak\nif header :contains "subject" "oak" { discard; }\n# Elm\nif header :contains "subject" "elm" { stop; }\n';

async function add(name: string, text: string): Promise<string> {
  const { target } = await addFile(name, text);
  await work();
  return target;
}
const subjects = () =>
  messagePage(store, id, { offset: 0, limit: 100, part: 'fired' })
    .rows.map(({ subject }) => subject)
    .sort();
const sources = () =>
  gatherView(store, id)
    .sources.map(({ fileName, state }) => `${fileName} ${state}`)
    .sort();

describe('mail that is removed', () => {
  let [first, second]: string[] = [];
  beforeEach(async () => {
    await addFile('rules.sieve', RULES);
    first = await add('a.mbox', mbox('oak 1', 'elm 1'));
    second = await add('b.mbox', mbox('oak 2', 'ash 2'));
    await simulated();
  });

  test('is shown with its effect first, which changes nothing', () => {
    expect(removalView(store, id, given(first))).toEqual({
      messages: 2,
      total: 4,
      folders: [{ folder: 'a', messages: 2 }],
      rules: [
        { id: 'r1', name: 'Oak', now: 2, after: 1 },
        { id: 'r2', name: 'Elm', now: 1, after: 0 },
      ],
      unused: 1,
    });
    expect(subjects()).toHaveLength(4);
  });

  test('is in no view, count or file, and is all there when it was put back', async () => {
    const before = [
      subjects(),
      Buffer.concat([...messagesAsMbox(store, id, { offset: 0, limit: 1, part: 'fired' })]).toString(),
    ];
    removeSource(store, id, given(first));
    await simulated();
    expect(subjects()).toEqual(['ash 2', 'oak 2']);
    expect(gatherView(store, id)).toMatchObject({ total: 2, folders: [{ folder: 'b', messages: 2 }] });
    expect(sources()).toEqual(['a.mbox removed', 'b.mbox ready']);
    expect(
      Buffer.concat([...messagesAsMbox(store, id, { offset: 0, limit: 1, part: 'fired' })]).toString(),
    ).not.toContain('elm');
    expect(() => removalView(store, id, given(first))).toThrow('No message of this file');
    expect(messagePage(store, id, { offset: 0, limit: 9, part: 'fired', rule: 'r1' }).found).toBe(1);
    expect(messagePage(store, id, { offset: 0, limit: 9, part: 'fired', search: 'oak' }).found).toBe(1);
    expect([...storedMail(store, audit()).messages].filter(({ sender }) => sender !== '')).toHaveLength(2);
    restoreSource(store, id, given(first));
    await simulated();
    expect([
      subjects(),
      Buffer.concat([...messagesAsMbox(store, id, { offset: 0, limit: 1, part: 'fired' })]).toString(),
    ]).toEqual(before);
  });

  test('comes back when the same file is dropped again', async () => {
    removeSource(store, id, given(first));
    await add('again.mbox', mbox('oak 1', 'elm 1'));
    expect(subjects()).toEqual(['ash 2', 'elm 1', 'oak 1', 'oak 2']);
    expect(sources()).toEqual(['a.mbox ready', 'b.mbox ready']);
  });

  test('is refused where there is none, and while it is being read', async () => {
    expect(() => removeSource(store, id, 'nothing')).toThrow('no such file');
    const { target } = await addFile('c.mbox', mbox('new'));
    expect(() => removeSource(store, id, target)).toThrow('still being imported');
    await work();
    removeSource(store, id, given(second));
    removeSource(store, id, given(second));
    expect(sources()).toContain('b.mbox removed');
  });
});

describe('mail that is read again', () => {
  test('comes in the place of what was read before', async () => {
    const first = await add('a.mbox', mbox('oak 1', 'elm 1'));
    await readMailAgain(store, runner, id, first, { fileName: 'a.mbox', body: body(mbox('oak 1', 'ash 1')) });
    expect(subjects()).toEqual(['elm 1', 'oak 1']);
    await work();
    expect(subjects()).toEqual(['ash 1', 'oak 1']);
    expect(sources()).toEqual(['a.mbox ready', 'a.mbox removed']);
  });

  test('stays as it was where the new file is no mail, or the same', async () => {
    const first = await add('a.mbox', mbox('oak 1'));
    const again = (text: string) => readMailAgain(store, runner, id, first, { fileName: 'a.mbox', body: body(text) });
    await expect(again(mbox('oak 1'))).rejects.toThrow('imported before');
    await expect(again('')).rejects.toThrow('empty');
    await expect(again('{"not": 1}')).rejects.toThrow();
    await expect(readMailAgain(store, runner, id, first, null)).rejects.toThrow('Choose the file');
    await again(`\u0001 rubbish`).catch(() => {});
    await work();
    expect(subjects()).toEqual(['oak 1']);
  });

  test('from the path that it came from', async () => {
    const path = join(root, 'box.mbox');
    writeFileSync(path, mbox('oak 1'));
    const { target } = await importPath(store, runner, id, path);
    await work();
    writeFileSync(path, mbox('oak 1', 'elm 1'));
    await readMailAgain(store, runner, id, target, null);
    await work();
    expect(subjects()).toEqual(['elm 1', 'oak 1']);
  });
});

test('flags of a Maildir are those of its last reading', async () => {
  const box = join(root, 'Maildir');
  mkdirSync(join(box, 'cur'), { recursive: true });
  const letter = 'From: ann@x.example\nSubject: oak\n\nwords\n';
  writeFileSync(join(box, 'cur', '1700000000.1.mill:2,'), letter);
  writeFileSync(join(box, 'cur', '1700000001.2.mill:2,S'), letter.replace('oak', 'elm'));
  const { target } = await importPath(store, runner, id, box);
  await work();
  const unseen = () =>
    messagePage(store, id, { offset: 0, limit: 9, part: 'fired', unseen: '1' }).rows.map(({ subject }) => subject);
  expect(unseen()).toEqual(['oak']);
  renameSync(join(box, 'cur', '1700000000.1.mill:2,'), join(box, 'cur', '1700000000.1.mill:2,S'));
  await readMailAgain(store, runner, id, target, null);
  await work();
  expect(unseen()).toEqual([]);
  expect(subjects()).toEqual(['elm', 'oak']);
});

test('however files that share messages are added, removed, put back and read again, each message is there once while one that holds it is', async () => {
  type Step = {
    readonly do: 'add' | 'remove' | 'restore' | 'again';
    readonly at: number;
    readonly holds: readonly number[];
  };
  const steps = fc.array(
    fc.record<Step>({
      do: fc.constantFrom('add', 'add', 'remove', 'restore', 'again'),
      at: fc.nat(5),
      holds: fc.uniqueArray(fc.nat(5), { minLength: 1, maxLength: 5 }),
    }),
    { minLength: 2, maxLength: 12 },
  );
  let runs = 0;
  await fc.assert(
    fc.asyncProperty(steps, async (plan) => {
      const made: { id: string; holds: readonly number[]; isThere: boolean }[] = [];
      const base = runs++;
      const name = (n: number) => `${base} message ${n}`;
      const text = (holds: readonly number[]) => mbox(...holds.map(name));
      for (const [turn, { do: what, at, holds }] of plan.entries()) {
        const source = made[at % Math.max(1, made.length)];
        // The same file again would be refused, or restored.
        const letter = `${text(holds)}${FROM}\nFrom: ann@x.example\nSubject: ${base} file ${turn}\n\n\n`;
        if (what === 'add') {
          const { target } = await addFile('INBOX.mbox', letter);
          await work();
          made.push({ id: target, holds, isThere: true });
        } else if (what === 'remove' && source) {
          removeSource(store, id, source.id);
          source.isThere = false;
        } else if (what === 'restore' && source) {
          restoreSource(store, id, source.id);
          source.isThere = true;
        } else if (what === 'again' && source?.isThere) {
          const { target } = await readMailAgain(store, runner, id, source.id, {
            fileName: 'INBOX.mbox',
            body: body(letter),
          });
          await work();
          source.isThere = false;
          made.push({ id: target, holds, isThere: true });
        }
        const wanted = [...new Set(made.flatMap(({ holds: own, isThere }) => (isThere ? own.map(name) : [])))].sort();
        expect(subjects().filter((subject) => subject.startsWith(`${base} message`))).toEqual(wanted);
        expect(audit().storedCount).toBe(subjects().length);
      }
      for (const { id: source, isThere } of made) if (isThere) removeSource(store, id, source);
    }),
    { numRuns: 40 },
  );
});
