import { expect, test } from 'vitest';
import { addFile, audit, FROM, id, simulated, store, withAudit, work } from '../../../test/harness';
import { chainFromSieve } from '../../core/rules/from-sieve';
import { getFlow } from '../chain/simulation';
import { columnPieces } from '../database/schema';

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
