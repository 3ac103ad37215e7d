import { expect, test } from 'vitest';
import type { FoundMail } from '../../files/mail/found';
import { countOn, FileReport } from './file-report';

const found = (path: string | null, single = false): FoundMail => {
  const place = { folder: 'INBOX', flags: [], received: null, single, path };
  return { fromLine: null, raw: new Uint8Array(), offset: 0, oddities: [], ...place };
};

test('messages of one file, and single messages of one folder, share a line; what lies apart is told by ranges', () => {
  const report = new FileReport();
  const paths = ['a.mbox', 'a.mbox', 'cur/1', 'b.mbox', 'cur/2', 'cur/3'];
  for (const [number, path] of paths.entries()) countOn(report.line(found(path, path.startsWith('cur'))), number);
  report.passedOver({ path: 'c.png', reason: 'no mail' });
  expect(report.lines().map(({ path, many, ranges, passedOver }) => [path, many, ranges, passedOver])).toEqual([
    ['a.mbox', false, [[0, 2]], null],
    [
      'cur/',
      true,
      [
        [2, 3],
        [4, 6],
      ],
      null,
    ],
    ['b.mbox', false, [[3, 4]], null],
    ['c.png', false, [], 'no mail'],
  ]);
});

test('what came with no file of its own has no line, and there is an end to the lines', () => {
  const report = new FileReport();
  expect(report.line(found(null))).toBeNull();
  for (let file = 0; file < 6000; file++) countOn(report.line(found(`${file}.mbox`)), file);
  const lines = report.lines();
  expect(lines).toHaveLength(5001);
  expect(lines.at(-1)).toMatchObject({ path: 'further files', messages: 1000, ranges: [[5000, 6000]] });
});
