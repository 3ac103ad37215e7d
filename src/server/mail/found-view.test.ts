import { expect, test } from 'vitest';
import { addFile, FROM, id, simulated, store, withAudit, work } from '../../../test/harness';
import { setAside } from '../findings/set-aside';
import { foundView } from './found-view';
import { messagePage } from './list-view';

withAudit();

const RULES = `require "fileinto";
# Oak beams
if header :contains "subject" "oak" { fileinto "Timber/Oak"; stop; }
# Again
if header :contains "subject" "oak beam" { fileinto "Timber/Beams"; stop; }
# Gauge
if address :is "from" "gauge@river.example" { fileinto "River"; stop; }
`;
const mail = (n: number, subject: string, from = 'ann@mill.example') =>
  `${FROM}\nFrom: ${from}\nSubject: ${subject}\nDate: Thu, ${(n % 28) + 1} Jan 2026 10:00:00 +0000\n\nwords of oak\n\n`;

test('rules, folders, findings and messages that contain all of the words', async () => {
  await addFile('rules.sieve', RULES);
  await addFile(
    'Old oak.mbox',
    [
      ...Array.from({ length: 9 }, (_, n) => mail(n, `Oak delivery ${n}`)),
      mail(9, 'Level', 'gauge@river.example'),
    ].join(''),
  );
  await work();
  await simulated();
  const found = foundView(store, id, 'oak');
  expect(found.rules.map(({ name, place }) => [place, name])).toEqual([
    [0, 'Oak beams'],
    [1, 'Again'],
  ]);
  expect(found.folders).toEqual([{ name: 'Old oak', messages: 10 }]);
  expect(found.findings.map(({ claim }) => claim)).toEqual([
    '“Again” never acts: “Oak beams” stops every message that it matches.',
    expect.stringContaining('“Oak beams” comes before “Gauge”'),
  ]);
  // Words of the text alone do not count, and the newest come first.
  expect(found.all).toEqual({ rules: 2, folders: 1, findings: 2, messages: 9 });
  expect(found.messages.map(({ number }) => number)).toEqual([8, 7, 6, 5]);
  expect(messagePage(store, id, { offset: 0, limit: 100, part: 'fired', head: 'oak' }).found).toBe(9);

  expect(foundView(store, id, 'LEVEL gau').messages.map(({ subject, from }) => [subject, from])).toEqual([
    ['Level', 'gauge@river.example'],
  ]);
  expect(foundView(store, id, 'oak river').all).toEqual({ rules: 0, folders: 0, findings: 0, messages: 0 });
  // One letter begins too many words of the mail; nothing finds nothing.
  expect(foundView(store, id, 'o').messages).toEqual([]);
  expect(foundView(store, id, ' ').all).toEqual({ rules: 0, folders: 0, findings: 0, messages: 0 });

  setAside(store, id, found.findings[0]?.key ?? '', 'so it was meant');
  expect(foundView(store, id, 'oak').all.findings).toBe(1);
});
