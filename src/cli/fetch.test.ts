import { mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { cliOn, folder, write } from '../../test/cli';
import { parsed } from '../../test/cli-data';
import { type Dovecot, startDovecot, trustedAddress } from '../../test/dovecot';
import { given } from '../../test/given';
import { ownJson } from '../core/text/lookup';
import { ImapMail } from '../imap/mailbox';

const letter = (subject: string) =>
  `Return-Path: <tom@oak.example>\nFrom: tom@oak.example\nSubject: ${subject}\nMessage-ID: <${subject}@oak.example>\n\nText.\n`;

const counts = (messages: number, fresh: number, flags: number, gone: number) => ({
  messages,
  new: fresh,
  flags,
  gone,
});

/** By folder of the store and name of the file. */
const MAIL: readonly [string, string, string][] = [
  ['cur', '1700000001.M1.mill:2,S', 'one'],
  ['cur', '1700000002.M2.mill:2,', 'two'],
  ['new', '1700000003.M3.mill', 'three'],
  ['Weir/Levels/cur', '1700000004.M4.mill:2,FS', 'four'],
  ['M&APw-hle/cur', '1700000005.M5.mill:2,RS', 'five'],
  ['Sent/cur', '1700000006.M6.mill:2,S', 'six'],
  ['Old.mbox/cur', '1700000007.M7.mill:2,S', 'seven'],
];

describe('fetch', () => {
  let server: Dovecot;
  let trust: string;
  const put = (path: string, name: string, subject: string) => {
    const file = join(server.mail, path, name);
    writeFileSync(file, letter(subject));
    server.own(file);
  };

  beforeAll(async () => {
    server = await startDovecot((mail) => {
      for (const [path, name, subject] of MAIL) {
        for (const part of ['cur', 'new', 'tmp']) mkdirSync(join(mail, path, '..', part), { recursive: true });
        writeFileSync(join(mail, path, name), letter(subject));
      }
    });
    const address = await trustedAddress(server.ports.imaps, 'tls', (one) => ImapMail.connect(one, server));
    trust = given(address.trusted);
  }, 60_000);
  afterAll(() => server.stop());

  const out = join(folder, 'fetched');
  const fetched = (...more: string[]) =>
    cliOn(
      `${server.password}\n`,
      'fetch',
      '--server',
      `127.0.0.1:${server.ports.imaps}`,
      '--user',
      server.user,
      '--out',
      out,
      ...more,
    );
  const lines = (text: string) =>
    text
      .trim()
      .split('\n')
      .map((line) => ownJson<Record<string, unknown>>(line));
  const rules = () => write('fetched.sieve', '# All\nif true { keep; }\n');
  const stored = () =>
    parsed(cliOn('', 'simulate', '--rules', rules(), '--messages', out).out)
      .map(({ messageId }) => messageId)
      .sort();

  test('everything at first, then only what is new; flags are refreshed, what is gone goes', () => {
    const refused = fetched();
    expect([refused.status, refused.out]).toEqual([1, '']);
    expect(refused.err).toBe(
      `The certificate of the server cannot be trusted: it is self-signed. Check it, and trust it with --trust ${trust}\n`,
    );
    const first = fetched('--trust', trust);
    expect([first.status, first.err]).toEqual([0, '"Old.mbox": skipped: a folder here cannot have this name\n']);
    const byFolder = (text: string) => Object.fromEntries(lines(text).map(({ folder: name, ...rest }) => [name, rest]));
    expect(byFolder(first.out)).toEqual({
      INBOX: counts(3, 3, 0, 0),
      'Weir/Levels': counts(1, 1, 0, 0),
      Mühle: counts(1, 1, 0, 0),
      Sent: counts(1, 1, 0, 0),
    });
    expect(stored()).toEqual([
      '<five@oak.example>',
      '<four@oak.example>',
      '<one@oak.example>',
      '<six@oak.example>',
      '<three@oak.example>',
      '<two@oak.example>',
    ]);
    expect(readdirSync(join(out, 'Weir', 'Levels', 'cur'))).toEqual([
      expect.stringMatching(/^\d+\.V\d+U1\.imap:2,FS$/),
    ]);

    rmSync(join(server.mail, 'cur', '1700000001.M1.mill:2,S'));
    renameSync(join(server.mail, 'cur', '1700000002.M2.mill:2,'), join(server.mail, 'cur', '1700000002.M2.mill:2,RS'));
    put('M&APw-hle/new', '1700000008.M8.mill', 'eight');
    const second = fetched('--trust', trust);
    expect(byFolder(second.out)).toEqual({
      INBOX: counts(2, 0, 1, 1),
      'Weir/Levels': counts(1, 0, 0, 0),
      Mühle: counts(2, 1, 0, 0),
      Sent: counts(1, 0, 0, 0),
    });
    expect(stored()).toEqual([
      '<eight@oak.example>',
      '<five@oak.example>',
      '<four@oak.example>',
      '<six@oak.example>',
      '<three@oak.example>',
      '<two@oak.example>',
    ]);
  });

  test('folders that are numbered anew are fetched anew, and nothing is there twice', () => {
    for (const name of readdirSync(join(server.mail, 'Weir', 'Levels'))) {
      if (name.startsWith('dovecot')) rmSync(join(server.mail, 'Weir', 'Levels', name));
    }
    const [before] = readdirSync(join(out, 'Weir', 'Levels', 'cur'));
    const { status, out: text } = fetched('--trust', trust);
    const levels = lines(text).find(({ folder: name }) => name === 'Weir/Levels');
    expect([status, levels]).toEqual([0, { folder: 'Weir/Levels', messages: 1, new: 1, flags: 0, gone: 1 }]);
    const [after, ...more] = readdirSync(join(out, 'Weir', 'Levels', 'cur'));
    expect(more).toEqual([]);
    expect(after).not.toBe(before);
  });

  test('a folder that has another name on the server has it here too', () => {
    renameSync(join(server.mail, 'M&APw-hle'), join(server.mail, 'Mill'));
    const { status, out: text } = fetched('--trust', trust);
    expect([status, lines(text).filter(({ folder: name }) => /^M/.test(String(name)))]).toEqual([
      0,
      [
        { folder: 'Mill', ...counts(2, 2, 0, 0) },
        { folder: 'Mühle', ...counts(0, 0, 0, 2) },
      ],
    ]);
    expect(stored()).toHaveLength(6);
  });

  test('an exported audit says what must happen to mail: exit 1 when it does not', () => {
    const chain = ownJson<object>(cliOn('', 'convert', '--rules', rules(), '--to', 'json').out);
    const expectation = (name: string, folder: string) => ({
      name,
      tests: { kind: 'all', children: [] },
      must: { must: 'end in', folder },
    });
    const audit = (...expectations: object[]) =>
      write(
        'audit.json',
        JSON.stringify({ format: 'ysomeris-audit', version: 1, ownAddresses: [], draft: chain, expectations }),
      );
    const met = fetched('--trust', trust, '--audit', audit(expectation('All', 'INBOX')));
    expect([met.status, met.err.includes('skipped')]).toEqual([0, true]);
    const broken = fetched(
      '--trust',
      trust,
      '--audit',
      audit(expectation('All', 'INBOX'), expectation('None', 'Mill')),
    );
    expect(broken.status).toBe(1);
    expect(lines(broken.out).at(-1)).toEqual({
      expectation: 'None',
      words: 'All mail must end in “Mill”',
      messages: [0, 1, 2, 3, 4, 5],
    });
    const none = fetched('--trust', trust, '--audit', rules());
    expect([none.status, none.out]).toEqual([1, '']);
  });

  test.each([
    [[], '--server is missing'],
    [['--server', 'mill.example:99999', '--user', 'a', '--out', 'x'], '--server has no such port'],
    [['--server', 'https://mill.example', '--user', 'a', '--out', 'x'], '--server is not a host, or a host and a port'],
    [
      ['--server', 'mill.example', '--user', 'a', '--out', 'x', '--trust', 'AB'],
      '--trust is not the SHA-256 fingerprint of a certificate',
    ],
    [
      ['--server', 'mill.example', '--user', 'a', '--out', 'x'],
      'the password is missing: set YSOMERIS_PASSWORD, or write it to standard input',
    ],
    [
      ['--server', '192.0.2.1', '--security', 'plain', '--user', 'a', '--out', 'x'],
      'the password is missing: set YSOMERIS_PASSWORD, or write it to standard input',
    ],
  ])('%j', (args, words) => {
    const { status, out: said, err } = cliOn('', 'fetch', ...args);
    expect([status, said, err.startsWith(words)]).toEqual([1, '', true]);
  });

  test('unencrypted only to this machine', () => {
    const { status, err } = cliOn(
      'secret\n',
      'fetch',
      '--server',
      '192.0.2.1',
      '--security',
      'plain',
      '--user',
      'a',
      '--out',
      out,
    );
    expect([status, err]).toEqual([
      1,
      'Connections without encryption are allowed only to this machine. Choose STARTTLS or TLS.\n',
    ]);
  });
});
