import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { chownSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { portOf, thrownAs } from '../../test/given';
import { selfSigned } from '../standins/certificate';
import { ManageSieve, ServerRefusal } from './client';
import { CertificateFault, type ServerAddress } from './line';

/**
 * The client against an independent server of RFC 5804, run by an ordinary user: that of Debian's dovecot-managesieved, which
 * `npm test` installs.
 */
const PROGRAM = '/usr/sbin/dovecot';

const SCRIPT = 'require "fileinto";\r\n# Oak\r\nif header :contains "subject" "oak" { fileinto "Oak"; }\r\n';
const PASSWORD = 'sluice-gate';

/** The server's user: whoever runs the tests, but never root. */
const [user, uid, gid] =
  userInfo().uid === 0 ? ['nobody', 65_534, 65_534] : [userInfo().username, userInfo().uid, userInfo().gid];
const group = () => execFileSync('id', ['-gn', user], { encoding: 'utf8' }).trim();

const settings = (home: string, port: number) => `
protocols = sieve
base_dir = ${home}/base
state_dir = ${home}/state
log_path = ${home}/log
default_internal_user = ${user}
default_internal_group = ${group()}
default_login_user = ${user}
listen = 127.0.0.1
ssl = yes
ssl_cert = <${home}/cert.pem
ssl_key = <${home}/key.pem
auth_mechanisms = plain scram-sha-256
mail_location = maildir:${home}/mail
first_valid_uid = 0
passdb {
  driver = static
  args = password=${PASSWORD}
}
userdb {
  driver = static
  args = uid=${uid} gid=${gid} home=${home}/mail
}
service managesieve-login {
  chroot =
  inet_listener sieve {
    port = ${port}
  }
}
service anvil {
  chroot =
}
plugin {
  sieve = file:${home}/mail/sieve;active=${home}/mail/.dovecot.sieve
  sieve_quota_max_scripts = 2
}
`;

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const port = portOf(server);
  await new Promise((resolve) => server.close(resolve));
  return port;
}

const failing = (work: Promise<unknown>) =>
  work.then(
    () => null,
    (error: unknown) => error,
  );

describe('an independent server', () => {
  let program: ChildProcess;
  let home: string;
  let address: ServerAddress;

  beforeAll(async () => {
    home = mkdtempSync(join(tmpdir(), 'sieve-'));
    for (const folder of ['base', 'state', 'mail']) mkdirSync(join(home, folder));
    const { cert, key } = await selfSigned('mill.example', Date.now());
    writeFileSync(join(home, 'cert.pem'), cert);
    writeFileSync(join(home, 'key.pem'), key, { mode: 0o600 });
    const port = await freePort();
    writeFileSync(join(home, 'settings'), settings(home, port));
    for (const one of ['', 'base', 'state', 'mail', 'cert.pem', 'key.pem', 'settings'])
      chownSync(join(home, one), uid, gid);
    program = spawn(PROGRAM, ['-F', '-c', join(home, 'settings')], { uid, gid, stdio: 'inherit' });
    address = { host: '127.0.0.1', port, security: 'starttls', trusted: null };
    for (let tries = 0; ; tries++) {
      const fault = await failing(ManageSieve.connect(address));
      if (fault instanceof CertificateFault) {
        address = { ...address, trusted: fault.fingerprint };
        return;
      }
      if (tries > 100) throw fault;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  });

  afterAll(async () => {
    program.kill('SIGTERM');
    await new Promise((resolve) => program.once('exit', resolve));
    rmSync(home, { recursive: true, force: true });
  });

  const signedIn = async () => {
    const client = await ManageSieve.connect(address);
    await client.authenticate(user, PASSWORD);
    return client;
  };

  test('every command', async () => {
    const client = await ManageSieve.connect(address);
    expect(client.capabilities.sasl).toEqual(['PLAIN', 'SCRAM-SHA-256']);
    await client.authenticate(user, PASSWORD);
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
    expect(await failing(client.authenticate(user, 'wrong'))).toBeInstanceOf(ServerRefusal);
    client.close();
  });
});
