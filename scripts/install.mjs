// Installs what a fresh machine lacks. Runs before anything of the project is installed: Node's own modules only.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Installs the packages of the lock file, unless exactly these are installed already. */
export function installPackages(root, { quiet = false } = {}) {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const mark = join(root, 'node_modules', '.installed-lock');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  say('installing the packages (better-sqlite3 is compiled: this takes some minutes)');
  run('npm', ['ci', '--no-audit', '--no-fund'], { cwd: root, quiet });
  writeFileSync(mark, lock);
}

/** Installs Debian packages whose program is missing; needs root, or says what to install. */
export function installPrograms(programs) {
  const missing = programs.filter(({ program }) => !existsSync(program));
  if (missing.length === 0) return;
  const names = missing.map(({ debian }) => debian);
  say(`installing from Debian: ${names.join(', ')}`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const prefix = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const [program, ...before] = [...prefix, 'apt-get'];
  run(program, [...before, 'update'], { env });
  withoutServices(() => run(program, [...before, 'install', '-y', '--no-install-recommends', ...names], { env }));
}

/** By this file the packages of servers are told not to start them (Debian's invoke-rc.d). */
const POLICY = '/usr/sbin/policy-rc.d';

function withoutServices(install) {
  if (process.getuid?.() !== 0 || existsSync(POLICY)) return install();
  writeFileSync(POLICY, '#!/bin/sh\nexit 101\n', { mode: 0o755 });
  try {
    return install();
  } finally {
    rmSync(POLICY);
  }
}

export const CHROMIUM = { program: '/usr/bin/chromium', debian: 'chromium' };
export const MAILUTILS = { program: '/usr/bin/sieve', debian: 'mailutils' };
export const DOVECOT_SIEVE = { program: '/usr/bin/sieve-filter', debian: 'dovecot-sieve' };

export const DOVECOT_MANAGESIEVED = {
  program: '/usr/lib/dovecot/managesieve-login',
  debian: 'dovecot-managesieved',
};

/** Runs a program to its end; throws when it fails. Quiet: its output goes to standard error. */
export function run(program, args, { cwd, env, quiet = false } = {}) {
  const done = spawnSync(program, args, { cwd, env, stdio: ['ignore', quiet ? 2 : 'inherit', 'inherit'] });
  if (done.status === 0) return;
  throw new Error(`${[program, ...args].join(' ')} failed${done.error ? `: ${done.error.message}` : ''}`);
}

export function say(words) {
  console.error(`- ${words}`);
}
