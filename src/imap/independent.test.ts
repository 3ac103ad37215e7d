import { mkdirSync, readdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import iconv from 'iconv-lite';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Dovecot, startDovecot, trustedAddress } from '../../test/dovecot';
import { failing, given, thrownAs } from '../../test/given';
import { corpus } from '../core/agreement/corpus';
import { CertificateFault, ConnectionFault, type ServerAddress } from '../net/line';
import { ImapMail, type ImapMessage } from './mailbox';

/** The client against an independent server of RFC 3501, with public mail in nested folders. */

const COUNT = 2000;
const FOLDERS = ['INBOX', 'Sent', 'Weir/Pegelstände', '石灰/見積り', 'Odds & ends', 'Weir/Pegelstände/2019'];
/** Letters of a Maildir file (common practice); Dovecot keeps keywords as small letters. */
const LETTERS = { '\\answered': 'R', '\\flagged': 'F', '\\seen': 'S', $forwarded: 'a', oak: 'b' };
type Flag = keyof typeof LETTERS;
const FLAGS = Object.keys(LETTERS) as Flag[];

/** As the server must give it: lines end with CRLF. */
const overTheWire = (raw: Uint8Array): Buffer =>
  Buffer.from(Buffer.from(raw).toString('latin1').replace(/\r?\n/g, '\r\n'), 'latin1');

const flagsOf = (number: number): Flag[] => FLAGS.filter((_, at) => (number >> at) % 2 === 1).sort();
const folderOf = (number: number): string => FOLDERS[number % FOLDERS.length] ?? 'INBOX';
const receivedOf = (number: number): number => 1_600_000_000 + number * 3600;

/** The path of a folder in the server's store: names in modified UTF-7 (RFC 3501 section 5.1.3). */
const placeOf = (mail: string, folder: string): string =>
  folder === 'INBOX'
    ? mail
    : join(mail, ...folder.split('/').map((name) => iconv.encode(name, 'utf7-imap').toString()));

function fill(mail: string, messages: readonly Uint8Array[]): void {
  for (const folder of FOLDERS) {
    for (const part of ['cur', 'new', 'tmp']) mkdirSync(join(placeOf(mail, folder), part), { recursive: true });
    writeFileSync(join(placeOf(mail, folder), 'dovecot-keywords'), '0 $Forwarded\n1 oak\n');
  }
  messages.forEach((raw, number) => {
    const letters = flagsOf(number).map((flag) => LETTERS[flag]);
    // Mail that no program has seen yet has no flags.
    const name = letters.length === 0 ? `new/${receivedOf(number)}.M${number}.mill` : null;
    const own = name ?? `cur/${receivedOf(number)}.M${number}.mill:2,${letters.sort().join('')}`;
    const file = join(placeOf(mail, folderOf(number)), own);
    writeFileSync(file, raw);
    // When it arrived (common practice).
    utimesSync(file, receivedOf(number), receivedOf(number));
  });
}

/** Every file of the store with its octets, without the server's own indexes. */
function stored(mail: string): Map<string, string> {
  const files = readdirSync(mail, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
  const messages = files.filter(({ name }) => !name.startsWith('dovecot'));
  return new Map(
    messages.map(({ parentPath, name }) => [join(parentPath, name), readFileSync(join(parentPath, name), 'latin1')]),
  );
}

describe('an independent server', () => {
  const messages = corpus().slice(0, COUNT);
  let server: Dovecot;
  let addresses: ServerAddress[];

  beforeAll(async () => {
    server = await startDovecot((mail) => fill(mail, messages));
    const { imap, imaps } = server.ports;
    const connect = (address: ServerAddress) => ImapMail.connect(address, server);
    addresses = [await trustedAddress(imap, 'starttls', connect), await trustedAddress(imaps, 'tls', connect)];
  }, 60_000);
  afterAll(() => server.stop());

  async function allOf(mail: ImapMail, path: string): Promise<ImapMessage[]> {
    await mail.open(path);
    const found: ImapMessage[] = [];
    for await (const one of mail.messages(await mail.uids())) found.push(one);
    return found;
  }

  test.each(['starttls', 'tls'])('all messages, octet for octet, and nothing changes there: %s', async (security) => {
    const address = given(addresses.find((one) => one.security === security));
    expect(messages).toHaveLength(COUNT);
    const before = stored(server.mail);
    const mail = await ImapMail.connect(address, server);
    const folders = await mail.folders();
    expect(folders.map(({ names }) => names.join('/')).sort()).toEqual([...FOLDERS].sort());
    expect(folders.find(({ path }) => path === 'Sent')?.use).toBe('\\Sent');
    for (const { path, names, messages: count, octets } of folders) {
      const own = [...messages.keys()].filter((number) => folderOf(number) === names.join('/'));
      const found = await allOf(mail, path);
      expect([count, found.length]).toEqual([own.length, own.length]);
      expect(octets).toBe(found.reduce((sum, { raw }) => sum + raw.length, 0));
      const byTime = new Map(found.map((one) => [given(one.received) / 1000, one]));
      const wrong = own.filter((number) => {
        const one = byTime.get(receivedOf(number));
        return (
          !one || one.flags.join() !== flagsOf(number).join() || !overTheWire(given(messages[number])).equals(one.raw)
        );
      });
      expect(wrong).toEqual([]);
    }
    await mail.close();
    expect(stored(server.mail)).toEqual(before);
  });

  test('only what arrived since a day, only what is asked for, only flags', async () => {
    const mail = await ImapMail.connect(given(addresses[0]), server);
    const { validity, messages: count } = await mail.open('INBOX');
    expect([validity, count]).toEqual([expect.stringMatching(/^\d+$/), Math.ceil(COUNT / FOLDERS.length)]);
    const all = await mail.uids();
    const late = await mail.uids(new Date((receivedOf(COUNT) - 20 * 86_400) * 1000));
    expect(late.length).toBeGreaterThan(0);
    expect(late.length).toBeLessThan(all.length);
    expect(all.slice(-late.length)).toEqual(late);
    const some = [all[0], all[1], all[7], 4_000_000_000].map(given);
    const flags = [];
    for await (const one of mail.flags(some)) flags.push(one.uid);
    expect(flags).toEqual(some.slice(0, 3));
    await mail.close();
  });

  test('a wrong password, a folder that is not there, a certificate that nobody trusts, a port without a server', async () => {
    const address = given(addresses[0]);
    const wrong = await failing(ImapMail.connect(address, { user: server.user, password: 'wrong' }));
    expect(thrownAs(ConnectionFault, wrong).message).toBe('The server did not accept this user and password.');
    const mail = await ImapMail.connect(address, server);
    expect(await failing(mail.open('Absent'))).toBeInstanceOf(ConnectionFault);
    await mail.close();
    for (const one of addresses) {
      const fault = await failing(ImapMail.connect({ ...one, trusted: null }, server));
      expect(thrownAs(CertificateFault, fault).reason).toBe('it is self-signed');
      const other = await failing(ImapMail.connect({ ...one, trusted: 'AA:BB' }, server));
      expect(thrownAs(CertificateFault, other).fingerprint).toBe(one.trusted);
    }
    const nowhere = await failing(ImapMail.connect({ ...address, port: 1 }, server));
    expect(thrownAs(ConnectionFault, nowhere).message).toBe('127.0.0.1 has no server on port 1. Check the port.');
  });
});
