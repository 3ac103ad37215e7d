import { describe, expect, test } from 'vitest';
import { placeOf } from './places';

describe('what a path says of the messages in a file', () => {
  test.each([
    ['Maildir/cur/1700000000.1.host:2,FS', 'INBOX', ['\\flagged', '\\seen'], true],
    ['Maildir/new/1700000000.2.host', 'INBOX', [], true],
    ['Maildir/.Archive.2020/cur/17.host:2,RS', 'Archive/2020', ['\\answered', '\\seen'], true],
    ['mail\\Suppliers\\Oak\\cur\\17;2,S', 'mail/Suppliers/Oak', ['\\seen'], true],
    ['Suppliers/Oak.mbox', 'Suppliers/Oak', [], false],
    ['inbox', 'INBOX', [], false],
    ['Suppliers/Lime.mbox/mbox', 'Suppliers/Lime', [], false],
    ['Müll/Brief.eml', 'Müll', [], true],
    ['letter.eml', 'INBOX', [], true],
    ['../../etc/passwd', 'etc/passwd', [], false],
    ['', 'INBOX', [], false],
  ])('%s', (path, folder, flags, single) => {
    expect(placeOf(path, 'INBOX')).toMatchObject({ folder, flags, single });
  });

  test('a name in a Maildir begins with the second in which the message arrived (common practice)', () => {
    expect(placeOf('cur/1700000000.1.host:2,S', 'INBOX').received).toBe(1_700_000_000_000);
    expect(placeOf('cur/17.host:2,S', 'INBOX').received).toBeNull();
    expect(placeOf('1700000000.eml', 'INBOX').received).toBeNull();
  });
});
