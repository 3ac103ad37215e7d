import { afterEach, describe, expect, test } from 'vitest';
import { failing, thrownAs } from '../../test/given';
import { ImapMail, type ImapMessage } from '../imap/mailbox';
import { CertificateFault, ConnectionFault, type ServerAddress } from '../net/line';
import { ImapStandIn, type ImapStandInSettings, type StandInFolder } from './imap';
import { inSet, wordsOf } from './imap-words';

const LOGIN = { user: 'mårén "M"', password: 'sluice-gate \\ 水' };
const FOLDERS: readonly StandInFolder[] = [
  {
    name: 'INBOX',
    use: null,
    messages: [
      {
        uid: 3,
        flags: ['\\seen', 'oak'],
        received: Date.UTC(2026, 0, 5, 7, 8, 9),
        raw: Buffer.from('A: 1\r\n\r\nx)\r\n'),
      },
      { uid: 4, flags: [], received: Date.UTC(2026, 6, 5), raw: Buffer.from('B: \xff{3}\r\n\r\n* BYE\r\n', 'latin1') },
    ],
  },
  { name: '石灰', use: '\\Sent', messages: [{ uid: 9, flags: [], received: 0, raw: Buffer.from('C: 3\r\n\r\n') }] },
  { name: 'Wehr/Pegelstände "1" & \\', use: null, messages: [] },
];

const opened: { close: () => unknown }[] = [];
afterEach(async () => {
  for (const one of opened.splice(0)) await one.close();
});

async function connected(settings: Partial<ImapStandInSettings> = {}) {
  let visits = 0;
  const server = new ImapStandIn({
    ...LOGIN,
    security: 'starttls',
    folders: async () => FOLDERS,
    left: () => visits++,
    ...settings,
  });
  const port = await server.listen();
  opened.push(server);
  const security = settings.security ?? 'starttls';
  let address: ServerAddress = { host: '127.0.0.1', port, security, trusted: null };
  if (security !== 'plain') {
    const fault = thrownAs(CertificateFault, await failing(ImapMail.connect(address, LOGIN)));
    address = { ...address, trusted: fault.fingerprint };
  }
  return { address, mail: await ImapMail.connect(address, LOGIN), visits: () => visits };
}

describe('the mailbox of the demo server', () => {
  test.each(['starttls', 'tls', 'plain'] as const)('is read by %s', async (security) => {
    const { mail, visits } = await connected({ security });
    const folders = await mail.folders();
    expect(folders.map(({ path, use, messages, octets }) => [path, use, messages, octets])).toEqual([
      ['INBOX', null, 2, 30],
      ['石灰', '\\Sent', 1, 8],
      ['Wehr/Pegelstände "1" & \\', null, 0, 0],
    ]);
    const found: ImapMessage[] = [];
    for (const { path } of folders) {
      await mail.open(path);
      for await (const one of mail.messages(await mail.uids())) found.push(one);
    }
    expect(
      found.map(({ uid, flags, received, raw }) => [uid, flags, received, Buffer.from(raw).toString('latin1')]),
    ).toEqual(
      FOLDERS.flatMap(({ messages }) =>
        messages.map(({ uid, flags, received, raw }) => [
          uid,
          [...flags].sort(),
          received,
          Buffer.from(raw).toString('latin1'),
        ]),
      ),
    );
    await mail.open('INBOX');
    expect(await mail.uids(new Date(Date.UTC(2026, 5, 1)))).toEqual([4]);
    expect(await failing(mail.open('Absent'))).toBeInstanceOf(ConnectionFault);
    expect(visits()).toBe(0);
    await mail.close();
    expect(visits()).toBe(1);
  });

  test('is open to its user only', async () => {
    const { address } = await connected();
    const wrong = await failing(ImapMail.connect(address, { ...LOGIN, password: 'wrong' }));
    expect(thrownAs(ConnectionFault, wrong).message).toBe('The server did not accept this user and password.');
  });
});

test('words of a command', () => {
  expect(wordsOf('a UID FETCH 1:4,7 (UID BODY.PEEK[HEADER.FIELDS (From To)] FLAGS)')).toEqual([
    'a',
    'UID',
    'FETCH',
    '1:4,7',
    ['UID', 'BODY.PEEK[HEADER.FIELDS (From To)]', 'FLAGS'],
  ]);
  expect(wordsOf('a LOGIN "b \\"c\\"" {3}\r\nd e')).toEqual(['a', 'LOGIN', 'b "c"', 'd e']);
  expect(() => wordsOf('a (b')).toThrow('parentheses');
  expect(() => wordsOf('a b)')).toThrow('parentheses');
  expect([1, 2, 5, 8, 9].filter(inSet('2:1,8:*', 9))).toEqual([1, 2, 8, 9]);
});
