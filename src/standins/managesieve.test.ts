import { createServer } from 'node:net';
import { afterEach, describe, expect, test } from 'vitest';
import { portOf, thrownAs } from '../../test/given';
import { ManageSieve, ServerRefusal } from '../managesieve/client';
import { CertificateFault, ConnectionFault, type ServerAddress } from '../net/line';
import { NO_FAULTS, STAND_IN, StandIn, type StandInSettings } from './managesieve';

const SCRIPT = 'require "fileinto";\r\n# Oak\r\nif header :contains "subject" "oak" { fileinto "Oak"; }\r\n';
const opened: { close: () => unknown }[] = [];
afterEach(async () => {
  for (const one of opened.splice(0)) await one.close();
});

async function playing(settings: Partial<StandInSettings> = {}): Promise<{ server: StandIn; address: ServerAddress }> {
  const server = new StandIn({ ...STAND_IN, ...settings });
  const port = await server.listen();
  opened.push(server);
  return { server, address: { host: '127.0.0.1', port, security: settings.security ?? 'starttls', trusted: null } };
}

/** A user who has checked the certificate and trusts it. */
async function trusting(address: ServerAddress): Promise<ServerAddress> {
  if (address.security === 'plain') return address;
  const fault = await ManageSieve.connect(address).then(
    () => null,
    (error: unknown) => error,
  );
  if (!(fault instanceof CertificateFault)) throw fault ?? new Error('a certificate that nobody vouches for was taken');
  return { ...address, trusted: fault.fingerprint };
}

async function signedIn(settings: Partial<StandInSettings> = {}) {
  const { server, address } = await playing(settings);
  const client = await ManageSieve.connect(await trusting(address), { idle: 2000 });
  opened.push(client);
  await client.authenticate(STAND_IN.user, STAND_IN.password);
  return { server, client };
}
const failing = (work: Promise<unknown>) =>
  work.then(
    () => null,
    (error: unknown) => error,
  );

describe('a conversation', () => {
  test.each([
    ['starttls', ['SCRAM-SHA-256', 'PLAIN']],
    ['tls', ['PLAIN']],
    ['plain', ['SCRAM-SHA-256']],
  ] as const)('by %s with %s: every command', async (security, sasl) => {
    const { server, client } = await signedIn({ security, sasl });
    expect(client.capabilities).toMatchObject({
      implementation: 'built-in demo server',
      maxRedirects: 5,
      version: '1.0',
      sasl,
    });
    expect(client.capabilities.sieve).toContain('imap4flags');
    expect(await client.list()).toEqual([]);
    await client.haveSpace('müll "1"', 100);
    expect(await client.check(SCRIPT)).toBe('');
    await client.put('müll "1"', SCRIPT);
    await client.put('other', `${SCRIPT}${'# a long line of words\r\n'.repeat(2000)}`);
    await client.activate('müll "1"');
    expect(await client.list()).toEqual([
      { name: 'müll "1"', active: true },
      { name: 'other', active: false },
    ]);
    expect(await client.get('müll "1"')).toBe(SCRIPT);
    expect((await client.get('other')).length).toBeGreaterThan(40_000);
    await client.rename('other', 'another');
    await client.remove('another');
    await client.activate('');
    expect(server.active).toBeNull();
    expect([...server.scripts.keys()]).toEqual(['müll "1"']);
    await client.logout();
    expect(await failing(client.list())).toBeInstanceOf(ConnectionFault);
  });

  test('what the server refuses is told in its own words, and nothing is changed', async () => {
    const { server, client } = await signedIn({ quota: { octets: 1000, scripts: 1 } });
    await client.put('one', SCRIPT);
    await client.activate('one');
    const refusal = async (work: Promise<unknown>) => {
      const error = await failing(work);
      return thrownAs(ServerRefusal, error);
    };
    expect((await refusal(client.check('require "date";\r\nkeep'))).text).toMatch(/line 2.*\r\n.*date/s);
    expect((await refusal(client.put('one', 'vanish;'))).text).toContain('vanish');
    expect(await refusal(client.put('two', SCRIPT))).toMatchObject({ answer: 'NO', code: 'QUOTA/MAXSCRIPTS' });
    expect(await refusal(client.put('one', `# ${'x'.repeat(2000)}\r\n`))).toMatchObject({ code: 'QUOTA/MAXSIZE' });
    expect(await refusal(client.haveSpace('one', 5000))).toMatchObject({ code: 'QUOTA/MAXSIZE' });
    expect(await refusal(client.get('none'))).toMatchObject({ code: 'NONEXISTENT' });
    expect(await refusal(client.remove('one'))).toMatchObject({ code: 'ACTIVE' });
    expect(await refusal(client.rename('one', 'one'))).toMatchObject({ code: 'ALREADYEXISTS' });
    expect([server.active, server.scripts.get('one')]).toEqual(['one', SCRIPT]);
  });

  test.each([['SCRAM-SHA-256'], ['PLAIN']])(
    'a wrong password by %s is refused, and so is a wrong name',
    async (way) => {
      const { address } = await playing({ sasl: [way], security: 'plain' });
      for (const [user, password] of [
        ['maren', 'wrong'],
        ['other', STAND_IN.password],
      ] as const) {
        const client = await ManageSieve.connect(address);
        opened.push(client);
        expect(await failing(client.authenticate(user, password))).toMatchObject({
          text: 'User or password is wrong.',
        });
        expect(await failing(client.list())).toMatchObject({ text: 'Sign in first.' });
      }
    },
  );

  test('a way to sign in that is not known here is none', async () => {
    const { address } = await playing({ sasl: ['GSSAPI'], security: 'plain' });
    const client = await ManageSieve.connect(address);
    opened.push(client);
    expect(await failing(client.authenticate('a', 'b'))).toMatchObject({ message: expect.stringContaining('GSSAPI') });
  });
});

describe('what can go wrong', () => {
  test('a certificate that nobody vouches for is told, and only the one that was looked at is taken', async () => {
    const { address } = await playing();
    const fault = thrownAs(CertificateFault, await failing(ManageSieve.connect(address)));
    expect(fault).toBeInstanceOf(CertificateFault);
    expect(fault.reason).toBe('it is self-signed');
    expect(fault.fingerprint).toMatch(/^([0-9A-F]{2}:){31}[0-9A-F]{2}$/);
    const other = await playing();
    expect(await failing(ManageSieve.connect({ ...other.address, trusted: fault.fingerprint }))).toBeInstanceOf(
      CertificateFault,
    );
  });

  test('a server that cannot secure the line is not spoken to', async () => {
    const { address } = await playing({ security: 'plain' });
    const error = await failing(ManageSieve.connect({ ...address, security: 'starttls' }));
    expect(error).toMatchObject({ message: expect.stringContaining('does not support STARTTLS') });
  });

  test('a line that breaks in the middle of a script', async () => {
    const { server, client } = await signedIn({ security: 'plain' });
    await client.put('one', SCRIPT);
    server.faults = { ...NO_FAULTS, drops: 'GETSCRIPT' };
    expect(await failing(client.get('one'))).toMatchObject({
      message: expect.stringMatching(/closed the connection|line broke/),
    });
  });

  test('a refusal of several lines, one that is slow, and one that sends elsewhere', async () => {
    const { server, client } = await signedIn({ security: 'plain' });
    server.faults = { ...NO_FAULTS, refuses: 'PUTSCRIPT' };
    expect(await failing(client.put('one', SCRIPT))).toMatchObject({
      text: expect.stringContaining('line 2: nor is this line.'),
    });
    server.faults = { ...NO_FAULTS, slow: 5000 };
    expect(await failing(client.list())).toMatchObject({ message: 'The server did not answer for 2 s.' });
    const { address } = await playing({ security: 'plain', faults: { ...NO_FAULTS, refers: 'sieve://other.example' } });
    expect(await failing(ManageSieve.connect(address))).toMatchObject({ referral: 'sieve://other.example' });
  });

  test.each([
    ['no protocol at all', 'HTTP/1.1 400 Bad Request\r\n\r\n', /HTTP\/1\.1|cannot be read/],
    ['a line without end', `"${'x'.repeat(100_000)}`, /too long/],
    ['a literal that is too large', '{99999999}\r\n', /too large/],
    ['a good-bye at once', 'BYE "Too many of you."\r\n', /Too many of you/],
    ['silence', '', /did not answer/],
  ])('%s', async (_what, said, told) => {
    const server = createServer((socket) => {
      socket.on('error', () => {});
      socket.write(said);
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    opened.push({ close: () => server.close() });
    const port = portOf(server);
    const address: ServerAddress = { host: '127.0.0.1', port, security: 'plain', trusted: null };
    expect(await failing(ManageSieve.connect(address, { idle: 500 }))).toMatchObject({
      message: expect.stringMatching(told),
    });
  });

  test('nobody there', async () => {
    const { server, address } = await playing({ security: 'plain' });
    await server.close();
    expect(await failing(ManageSieve.connect(address))).toMatchObject({
      message: expect.stringContaining('has no server on port'),
    });
  });
});
