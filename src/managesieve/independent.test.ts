import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Dovecot, startDovecot, trustedAddress } from '../../test/dovecot';
import { failing, thrownAs } from '../../test/given';
import type { ServerAddress } from '../net/line';
import { ManageSieve, ServerRefusal } from './client';

/** The client against an independent server of RFC 5804. */

const SCRIPT = 'require "fileinto";\r\n# Oak\r\nif header :contains "subject" "oak" { fileinto "Oak"; }\r\n';
describe('an independent server', () => {
  let server: Dovecot;
  let address: ServerAddress;

  beforeAll(async () => {
    server = await startDovecot();
    address = await trustedAddress(server.ports.sieve, 'starttls', (one) => ManageSieve.connect(one));
  });

  afterAll(() => server.stop());

  const signedIn = async () => {
    const client = await ManageSieve.connect(address);
    await client.authenticate(server.user, server.password);
    return client;
  };

  test('every command', async () => {
    const client = await ManageSieve.connect(address);
    expect(client.capabilities.sasl).toEqual(['PLAIN', 'SCRAM-SHA-256']);
    await client.authenticate(server.user, server.password);
    expect(client.capabilities.sieve).toContain('imap4flags');
    await client.haveSpace('Mühle', 1000);
    await client.check(SCRIPT);
    await client.put('Mühle', SCRIPT);
    const long = `${SCRIPT}${'# a long line of words: ü 石灰\r\n'.repeat(5000)}`;
    await client.put('other', long);
    expect(await client.get('Mühle')).toBe(SCRIPT);
    expect(await client.get('other')).toBe(long);
    await client.activate('Mühle');
    await client.rename('other', 'another "one"');
    expect((await client.list()).sort((a, b) => a.name.localeCompare(b.name))).toEqual([
      { name: 'another "one"', active: false },
      { name: 'Mühle', active: true },
    ]);
    await client.remove('another "one"');
    await client.activate('');
    expect(await client.list()).toEqual([{ name: 'Mühle', active: false }]);
    await client.remove('Mühle');
    await client.logout();
  });

  test('what it refuses', async () => {
    const client = await signedIn();
    await client.put('one', SCRIPT);
    await client.activate('one');
    await client.put('two', SCRIPT);
    for (const [work, code] of [
      [() => client.put('one', 'if vanish { keep; }\r\n'), null],
      [() => client.check('fileinto "x";\r\n'), null],
      [() => client.put('three', SCRIPT), 'QUOTA/MAXSCRIPTS'],
      [() => client.get('none'), 'NONEXISTENT'],
      [() => client.remove('one'), 'ACTIVE'],
      [() => client.rename('one', 'two'), 'ALREADYEXISTS'],
    ] as const) {
      const fault = await failing(work());
      expect(fault).toBeInstanceOf(ServerRefusal);
      expect([thrownAs(ServerRefusal, fault).answer, thrownAs(ServerRefusal, fault).code]).toEqual(['NO', code]);
    }
    expect(await client.get('one')).toBe(SCRIPT);
    expect((await client.list()).find(({ active }) => active)?.name).toBe('one');
    await client.logout();
  });

  test('a wrong password', async () => {
    const client = await ManageSieve.connect(address);
    expect(await failing(client.authenticate(server.user, 'wrong'))).toBeInstanceOf(ServerRefusal);
    client.close();
  });
});
