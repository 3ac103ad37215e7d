import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { chownSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { CertificateFault, type ServerAddress } from '../src/net/line';
import { selfSigned } from '../src/standins/certificate';
import { portOf } from './given';

/** A mail server that is not ours, run by an ordinary user on ports of its own: Debian's dovecot, which `npm test` installs. */
const PROGRAM = '/usr/sbin/dovecot';

/** The server's user: whoever runs the tests, but never root. */
const [user, uid, gid] =
  userInfo().uid === 0 ? ['nobody', 65_534, 65_534] : [userInfo().username, userInfo().uid, userInfo().gid];
const group = () => execFileSync('id', ['-gn', user], { encoding: 'utf8' }).trim();

const PASSWORD = 'sluice-gate';

const settings = (home: string, { sieve, imap, imaps }: Ports) => `
protocols = sieve imap
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
mail_location = maildir:${home}/mail:LAYOUT=fs
first_valid_uid = 0
namespace inbox {
  inbox = yes
  separator = /
  mailbox Sent {
    special_use = \\Sent
  }
}
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
    port = ${sieve}
  }
}
service imap-login {
  chroot =
  inet_listener imap {
    port = ${imap}
  }
  inet_listener imaps {
    port = ${imaps}
    ssl = yes
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

interface Ports {
  readonly sieve: number;
  readonly imap: number;
  readonly imaps: number;
}

export interface Dovecot {
  readonly ports: Ports;
  readonly user: string;
  readonly password: string;
  /** The folder with the user's mail, owned by the server's user. */
  readonly mail: string;
  /** Gives a file or folder to the server's user. */
  readonly own: (path: string) => void;
  readonly stop: () => Promise<void>;
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const port = portOf(server);
  await new Promise((resolve) => server.close(resolve));
  return port;
}

/** `prepare` may fill the folder of mail before the server starts. */
export async function startDovecot(prepare: (mail: string) => void = () => {}): Promise<Dovecot> {
  const home = mkdtempSync(join(tmpdir(), 'dovecot-'));
  for (const folder of ['base', 'state', 'mail']) mkdirSync(join(home, folder));
  const mail = join(home, 'mail');
  prepare(mail);
  const { cert, key } = await selfSigned('mill.example', Date.now());
  writeFileSync(join(home, 'cert.pem'), cert);
  writeFileSync(join(home, 'key.pem'), key, { mode: 0o600 });
  const ports = { sieve: await freePort(), imap: await freePort(), imaps: await freePort() };
  writeFileSync(join(home, 'settings'), settings(home, ports));
  const own = (path: string) => chownSync(path, uid, gid);
  if (uid !== userInfo().uid) execFileSync('chown', ['-R', `${uid}:${gid}`, home]);
  const program: ChildProcess = spawn(PROGRAM, ['-F', '-c', join(home, 'settings')], { uid, gid, stdio: 'inherit' });
  return {
    ports,
    user,
    password: PASSWORD,
    mail,
    own,
    stop: async () => {
      program.kill('SIGTERM');
      await new Promise((resolve) => program.once('exit', resolve));
      rmSync(home, { recursive: true, force: true });
    },
  };
}

/** The address with the certificate of the server trusted, once it answers. */
export async function trustedAddress(
  port: number,
  security: ServerAddress['security'],
  connect: (address: ServerAddress) => Promise<unknown>,
): Promise<ServerAddress> {
  const address: ServerAddress = { host: '127.0.0.1', port, security, trusted: null };
  for (let tries = 0; ; tries++) {
    const fault = await connect(address).then(
      () => null,
      (error: unknown) => error,
    );
    if (fault instanceof CertificateFault) return { ...address, trusted: fault.fingerprint };
    if (tries > 100) throw fault;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
