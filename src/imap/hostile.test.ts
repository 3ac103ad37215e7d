import { createServer, type Server, type Socket } from 'node:net';
import { afterEach, describe, expect, test } from 'vitest';
import { failing, portOf, thrownAs } from '../../test/given';
import { isStorable } from '../files/mail/maildir';
import { ConnectionFault } from '../net/line';
import { type ImapLimits, ImapMail } from './mailbox';

/** Servers that mean harm, or are broken: what they send ends in a fault, in bounded time and memory. */

const LIMITS: ImapLimits = { idle: 1500, answer: 3000, message: 1024 * 1024, folders: 3 };
const LETTER = 'Subject: oak\r\n\r\nText.\r\n';

type Say = (...lines: string[]) => void;
/** What the server does upon a command, other than what one would expect; null to do that. */
type Trick = (command: string, say: Say, socket: Socket) => boolean;

const literal = (text: string) => `{${Buffer.byteLength(text)}}\r\n${text}`;
const message = (uid: number, text = LETTER) =>
  `* ${uid} FETCH (UID ${uid} FLAGS (\\Seen) INTERNALDATE "01-Feb-2026 10:00:00 +0000" BODY[] ${literal(text)})`;

/** The answers of a plain server with three messages in the inbox. */
function plainly(command: string, say: Say): void {
  if (/^CAPABILITY/i.test(command)) say('* CAPABILITY IMAP4rev1 AUTH=PLAIN SASL-IR');
  else if (/^LIST/i.test(command)) say('* LIST () "/" INBOX');
  else if (/^STATUS/i.test(command)) say('* STATUS INBOX (MESSAGES 3)');
  else if (/^EXAMINE/i.test(command)) say('* 3 EXISTS', '* OK [UIDVALIDITY 7] ok', '* OK [UIDNEXT 4] ok');
  else if (/^UID SEARCH/i.test(command)) say('* SEARCH 1 2 3');
  else if (/^UID FETCH.*SIZE/i.test(command))
    say(...[1, 2, 3].map((uid) => `* ${uid} FETCH (UID ${uid} RFC822.SIZE 24)`));
  else if (/^UID FETCH/i.test(command)) say(message(1), message(2), message(3));
}

let server: Server;
const sockets = new Set<Socket>();

async function serverWith(
  trick: Trick,
  greeting = '* OK [CAPABILITY IMAP4rev1 AUTH=PLAIN SASL-IR] ready',
): Promise<number> {
  server = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => {});
    const say: Say = (...lines) => {
      for (const line of lines) socket.write(`${line}\r\n`);
    };
    if (greeting !== '') say(greeting);
    let text = '';
    socket.on('data', (data) => {
      text += data.toString('latin1');
      for (let end = text.indexOf('\r\n'); end >= 0; end = text.indexOf('\r\n')) {
        const [tag = '', ...words] = text.slice(0, end).split(' ');
        text = text.slice(end + 2);
        const command = words.join(' ');
        if (trick(command, say, socket)) continue;
        plainly(command, say);
        say(`${tag} OK done`);
      }
    });
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  return portOf(server);
}

afterEach(async () => {
  for (const socket of sockets) socket.destroy();
  sockets.clear();
  await new Promise((resolve) => server.close(resolve));
});

async function connected(trick: Trick, greeting?: string): Promise<ImapMail> {
  const port = await serverWith(trick, greeting);
  const address = { host: '127.0.0.1', port, security: 'plain', trusted: null } as const;
  return ImapMail.connect(address, { user: 'maren', password: 'sluice' }, LIMITS);
}

/** Everything that the client reads of the inbox. */
async function inbox(trick: Trick): Promise<number[]> {
  const mail = await connected(trick);
  await mail.folders();
  await mail.open('INBOX');
  const uids: number[] = [];
  for await (const { uid } of mail.messages(await mail.uids())) uids.push(uid);
  await mail.close();
  return uids;
}

const on =
  (pattern: RegExp, act: (say: Say, socket: Socket) => void): Trick =>
  (command, say, socket) => {
    if (!pattern.test(command)) return false;
    act(say, socket);
    return true;
  };

const endless = (text: string) => (_: Say, socket: Socket) => {
  const more = () => {
    while (!socket.destroyed && socket.write(text));
    if (!socket.destroyed) socket.once('drain', more);
  };
  more();
};

describe('a server', { timeout: 30_000 }, () => {
  test('that behaves', async () => {
    expect(await inbox(() => false)).toEqual([1, 2, 3]);
  });

  test.each<[string, Trick, RegExp]>([
    ['that does not answer', on(/^UID FETCH.*BODY/, () => {}), /does not answer|closed the connection/],
    [
      'that closes the connection in a message',
      on(/^UID FETCH.*BODY/, (_, socket) => socket.end(message(1).slice(0, -9))),
      /closed the connection/,
    ],
    [
      'that announces a huge message',
      on(/^UID FETCH.*BODY/, (say) => say('* 1 FETCH (UID 1 BODY[] {4000000000}')),
      /too large/,
    ],
    [
      'whose message does not end',
      on(/^UID FETCH.*BODY/, endless(`* 1 FETCH (UID 1 FLAGS (${'x'.repeat(60_000)} `)),
      /too l(arge|ong)/,
    ],
    ['whose line does not end', on(/^UID SEARCH/, endless('x'.repeat(65_536))), /too l(arge|ong)/],
    ['that talks without an end', on(/^UID SEARCH/, endless('* OK still here\r\n')), /does not answer/],
    ['that says no', on(/^EXAMINE/, (say) => say('* BYE full')), /closed the connection|full/],
    [
      'with too many folders',
      (command, say) => {
        if (/^LIST/.test(command)) say(...Array.from({ length: 9 }, (_, n) => `* LIST () "/" f${n}`));
        return false;
      },
      /lists 10 folders/,
    ],
  ])('%s', async (_, trick, words) => {
    expect(thrownAs(ConnectionFault, await failing(inbox(trick))).message).toMatch(words);
  });

  test.each<[string, string]>([
    ['that greets nobody', ''],
    ['that says goodbye at once', '* BYE go away'],
    ['that speaks something else', '220 mail.example ESMTP'],
  ])('%s', async (_, greeting) => {
    expect(await failing(connected(() => false, greeting))).toBeInstanceOf(ConnectionFault);
  });

  test('that sends what was not asked for, twice, and with wrong numbers', async () => {
    const tricks = (command: string, say: Say): boolean => {
      if (/^UID FETCH.*BODY/.test(command)) say(message(9), message(2), message(2), message(4_294_967_296), message(1));
      return false;
    };
    expect((await inbox(tricks)).sort()).toEqual([1, 2, 3]);
  });
});

test('a message that is too large is left out, and told; UIDs that cannot be are not asked for', async () => {
  const asked: string[] = [];
  const mail = await connected((command, say) => {
    asked.push(command);
    if (/^UID SEARCH/.test(command)) say('* SEARCH 0 1 2 3 4294967296');
    else if (/^UID FETCH.*SIZE/.test(command)) say('* 2 FETCH (UID 2 RFC822.SIZE 2000000000)');
    return false;
  });
  await mail.open('INBOX');
  const [found, left]: [number[], number[]] = [[], []];
  for await (const { uid } of mail.messages(await mail.uids(), (uid) => left.push(uid))) found.push(uid);
  await mail.close();
  expect([found.sort(), left]).toEqual([[1, 3], [2]]);
  expect(asked.filter((command) => command.startsWith('UID FETCH')).map((command) => command.split(' ')[2])).toEqual([
    '1:3',
    '1,3',
  ]);
});

test('names of folders that could lead elsewhere, or are read as something else', () => {
  for (const name of [
    '',
    ' ',
    '.',
    '..',
    '.hidden',
    'a/b',
    'a\\b',
    'a\u0000b',
    'a\nb',
    'a\u0085b',
    'cur',
    'New',
    'tmp',
    'Old.mbox',
    'ü'.repeat(101),
  ])
    expect([name, isStorable(['Oak', name])]).toEqual([name, false]);
  for (const name of ['Oak', 'a.b', '石灰', 'Odds & ends', 'current', 'ü'.repeat(100), '…'])
    expect([name, isStorable([name])]).toEqual([name, true]);
  expect(isStorable([])).toBe(false);
});
