import { expect, test } from 'vitest';
import { failedRecipients } from './bounces';
import { readMessage } from './message';

const report = (status: string, type = 'multipart/report; report-type=delivery-status') =>
  readMessage(
    new TextEncoder().encode(
      [
        'From: Mail Delivery <postmaster@home.example>',
        `Content-Type: ${type}; boundary=b`,
        '',
        '--b',
        'Content-Type: text/plain',
        '',
        'It could not be delivered.',
        '--b',
        'Content-Type: message/delivery-status',
        '',
        status,
        '--b--',
        '',
      ].join('\n'),
    ),
  );

// RFC 3464 appendix E.1, shortened.
const STATUS = `Reporting-MTA: dns; cs.utk.example
Arrival-Date: Tue, 1 Mar 1994 10:00:00 +0000

Original-Recipient: rfc822;louisl@larry.slip.umd.example
Final-Recipient: rfc822;Louisl@larry.slip.umd.example
Action: failed
Status: 4.0.0

Final-Recipient: RFC822; <roosevelt@fdr.example>
Action: delayed`;

test('only failed recipients, once', () => {
  expect(failedRecipients(report(STATUS))).toEqual(['louisl@larry.slip.umd.example']);
  expect(failedRecipients(report(STATUS.replace('delayed', 'Failed (expired)')))).toHaveLength(2);
});

test('nothing of other messages, or of reports without recipients', () => {
  expect(failedRecipients(report(STATUS, 'multipart/mixed'))).toEqual([]);
  expect(failedRecipients(report('Action: failed\nFinal-Recipient: x400; /c=us'))).toEqual([]);
  expect(failedRecipients(readMessage(new Uint8Array()))).toEqual([]);
});
