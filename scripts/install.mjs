// Installs what a fresh machine lacks. Runs before anything of the project is installed: Node's own modules only.
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Installs the packages of the lock file, unless exactly these are installed already, by whatever command. */
export function installPackages(root, { quiet = false } = {}) {
  if (isInstalled(root)) return;
  say('installing the packages; compiling better-sqlite3 takes about 5 minutes, once');
  run('npm', ['ci', '--no-audit', '--no-fund'], { cwd: root, quiet });
}

/**
 * Whether every package in the lock file for this machine is installed in its version: npm keeps a lock file of
 * installed packages.
 */
function isInstalled(root) {
  const packagesIn = (...path) => JSON.parse(readFileSync(join(root, ...path), 'utf8')).packages;
  try {
    const there = packagesIn('node_modules', '.package-lock.json');
    return Object.entries(packagesIn('package-lock.json')).every(([path, { version, optional, peer }]) => {
      // Optional packages may be for other machines; npm leaves them out then.
      return path === '' || there[path]?.version === version || ((optional || peer) && !there[path]);
    });
  } catch {
    return false;
  }
}

/** Installs Debian packages whose program is missing; needs root, or says what to install. */
export function installPrograms(programs) {
  const missing = programs.filter(({ program }) => !existsSync(program));
  if (missing.length === 0) return;
  const names = missing.map(({ debian }) => debian);
  say(`installing Debian packages, which takes about a minute, once: ${names.join(', ')}`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const prefix = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const [program, ...before] = [...prefix, 'apt-get'];
  run(program, [...before, 'update'], { env });
  withoutServices(() => run(program, [...before, 'install', '-y', '--no-install-recommends', ...names], { env }));
}

/** With this file, Debian's invoke-rc.d does not start servers of installed packages. */
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

export const DOVECOT_IMAPD = { program: '/usr/lib/dovecot/imap', debian: 'dovecot-imapd' };

/** Runs a program to its end; throws when it fails. Quiet: its output goes to standard error. */
export function run(program, args, { cwd, env, quiet = false } = {}) {
  const done = spawnSync(program, args, { cwd, env, stdio: ['ignore', quiet ? 2 : 'inherit', 'inherit'] });
  if (done.status === 0) return;
  throw new Error(`${[program, ...args].join(' ')} failed${done.error ? `: ${done.error.message}` : ''}`);
}

export function say(words) {
  console.error(`- ${words}`);
}
