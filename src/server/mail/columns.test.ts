import { deflateRawSync } from 'node:zlib';
import { and, eq } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { addFile, audit, FROM, id, simulated, store, withAudit, work } from '../../../test/harness';
import { type Atom, atomKey, evaluateAtoms } from '../../core/flow/atoms';
import { Bitmap } from '../../core/flow/bitmap';
import type { ColumnName } from '../../core/flow/columns';
import { atomsOf } from '../../core/flow/program';
import { chainFromSieve } from '../../core/rules/from-sieve';
import { elementAt } from '../../core/text/lookup';
import { Shares } from '../chain/shares';
import { evaluating, getFlow } from '../chain/simulation';
import { columnPieces } from '../database/schema';
import { StoredColumns } from './columns';

withAudit();

test('a message with fields of a great many names takes few rows, and every test of them is right', async () => {
  const fields = Array.from({ length: 15_000 }, (_, at) => `X-${at}: value ${at}\n`).join('');
  const plain = (subject: string) => `${FROM}\nFrom: ann@x.example\nSubject: ${subject}\nX-14999: other\n\nwords\n\n`;
  const large = `${FROM}\nFrom: tom@y.example\n${fields}Cc: late@x.example\nSubject: large\n\nwords\n\n`;
  const tests = [
    'exists "x-3"',
    'exists "x-14999"',
    'header :is "x-14998" "value 14998"',
    'header :contains ["x-14999", "x-1"] "other"',
    'address :domain "cc" "x.example"',
    'header "subject" "large"',
    'size :over 100K',
    'envelope :is "to" "me@mill.example"',
  ];
  await addFile('rules.sieve', `require "envelope";\n${tests.map((one) => `if ${one} { keep; }\n`).join('')}`);
  await addFile('INBOX.mbox', large + plain('one') + plain('two'));
  await work();
  await simulated();
  expect(chainFromSieve(`if ${tests[0]} { keep; }`).diagnostics).toEqual([]);
  const held = getFlow(store, audit()).entries.map(({ held: found }) => [...found.members()]);
  expect(held).toEqual([[0], [0, 1, 2], [0], [1, 2], [0], [0], [0], []]);
  const rows = store.select().from(columnPieces).all();
  expect(rows.filter(({ auditId }) => auditId === id).length).toBeLessThan(4100);
});

const mailOf = (count: number, isLarge = false) => {
  const text = (number: number) => (isLarge && number % 7 === 3 ? 'x'.repeat(5 * 1024 * 1024) : `oak ${number % 10}`);
  return Array.from({ length: count }, (_, number) => {
    return `${FROM}\nX-Number: ${number}\nSubject: message ${number % 50}\nTo: a@x.example, b@x.example\n\n${text(number)}\n\n`;
  }).join('');
};
const atomOf = (text: string): Atom => elementAt(atomsOf(chainFromSieve(`require "body"; ${text}`).chain), 0);
const contains = (key: string) => atomOf(`if body :text :contains "${key}" { keep; }`);

test('the texts are searched by two threads as by one, also those that are stored nowhere else', async () => {
  await addFile('INBOX.mbox', mailOf(40, true));
  await work();
  const { messageCount } = audit();
  const atoms = [contains('oak 4'), contains('xxx')];
  const first = new Shares(messageCount);
  const parts = [first, new Shares(messageCount, first.next)].map((shares) => {
    return evaluateAtoms(atoms, new StoredColumns(store, id, messageCount, null, shares));
  });
  const alone = evaluateAtoms(atoms, new StoredColumns(store, id, messageCount));
  for (const atom of atoms) {
    const found = parts.map((part) => part.get(atomKey(atom)) ?? new Bitmap(messageCount));
    expect([...found.reduce((all, part) => all.or(part)).members()]).toEqual([
      ...(alone.get(atomKey(atom))?.members() ?? []),
    ]);
    expect(alone.get(atomKey(atom))?.isEmpty()).toBe(false);
  }
});

test('columns can be asked for again and again', async () => {
  await addFile('INBOX.mbox', mailOf(40));
  await work();
  const evaluate = evaluating(store, audit(), () => {});
  const script = (word: string) =>
    atomOf(`require "variables"; set "a" "${word}"; if header :contains "subject" "\${a}" { stop; }`);
  for (const word of ['1', '2']) {
    for (const atom of [contains(`oak ${word}`), script(word)])
      expect(evaluate([atom]).get(atomKey(atom))?.count()).toBeGreaterThan(0);
  }
});

test('a column that an earlier version stored is read the same', async () => {
  await addFile('INBOX.mbox', mailOf(600));
  await work();
  const { messageCount } = audit();
  const columns = () => new StoredColumns(store, id, messageCount, null);
  const read = (column: ColumnName) => {
    const found: [number, readonly string[]][] = [];
    columns().scan(column, (number, values) => found.push([number, values]));
    return found;
  };
  for (const column of ['header:subject', 'address:to'] as const) {
    const now = read(column);
    expect(now.length).toBe(600);
    const { terms, messages, places } = columns().maybeDictionary(column) ?? never();
    expect(terms.length).toBe(column === 'address:to' ? 2 : 50);
    expect(Array.from(messages, (number, at) => [number, terms[places[at] ?? 0]])).toEqual(
      now.flatMap(([number, values]) => values.map((value) => [number, value])),
    );
    // Another number of messages is another column to what is kept in memory.
    for (const first of [0, 512]) {
      const rows = now.filter(([number]) => number >= first && number < first + 512);
      const data = deflateRawSync(JSON.stringify(rows.map(([number, values]) => [number - first, values])));
      store
        .update(columnPieces)
        .set({ data })
        .where(and(eq(columnPieces.auditId, id), eq(columnPieces.column, column), eq(columnPieces.first, first)))
        .run();
    }
    const before = new StoredColumns(store, id, 599, null);
    const found: [number, readonly string[]][] = [];
    before.scan(column, (number, values) => found.push([number, values]));
    expect(found).toEqual(now.slice(0, 599));
  }
});

function never(): never {
  throw new Error('there is no such column');
}
