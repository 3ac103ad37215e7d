// npm test: installs what is missing, runs every check, and ends with one line: N passed, N failed.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bin, CHECKS } from './checks.mjs';
import { fetchCorpus } from './corpus.mjs';
import {
  CHROMIUM,
  DOVECOT_IMAPD,
  DOVECOT_MANAGESIEVED,
  DOVECOT_SIEVE,
  installPackages,
  installPrograms,
  MAILUTILS,
} from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const results = join(root, 'test-results');
let passed = 0;
let failed = 0;
/** Failures by name, repeated at the end of the long output. */
const failures = [];

installPrograms([CHROMIUM, MAILUTILS, DOVECOT_SIEVE, DOVECOT_MANAGESIEVED, DOVECOT_IMAPD]);
installPackages(root);
fetchCorpus(root);
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });

const { buildApplication } = await import('./build.mjs');

for (const check of CHECKS) one(...check);
many(
  'unit and property tests',
  bin('vitest/vitest.mjs'),
  ['run', '--reporter=default', '--reporter=json', `--outputFile=${join(results, 'unit.json')}`],
  () => {
    const report = JSON.parse(readFileSync(join(results, 'unit.json'), 'utf8'));
    for (const file of report.testResults.filter((each) => each.status === 'failed')) {
      const tests = file.assertionResults.filter((each) => each.status === 'failed');
      if (tests.length === 0) failures.push(`${relative(root, file.name)}: ${file.message}`);
      for (const test of tests)
        failures.push(`${relative(root, file.name)}: ${test.fullName}\n${test.failureMessages.join('\n')}`);
    }
    return [
      report.numPassedTests,
      report.numFailedTests + report.numFailedTestSuites * (report.numFailedTests === 0 ? 1 : 0),
    ];
  },
);
build();
many('the interface, in a browser on the built application', bin('@playwright/test/cli.js'), ['test'], () => {
  const { stats } = JSON.parse(readFileSync(join(results, 'e2e.json'), 'utf8'));
  return [stats.expected, stats.unexpected + stats.flaky];
});

if (failures.length > 0) console.log(`\n== what failed\n\n${failures.join('\n\n')}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 && passed > 0 ? 0 : 1;

/** A check that counts as one. `sound` checks its output for signs that it really ran. */
function one(name, program, args, sound = () => true) {
  console.log(`\n== ${name}`);
  const { status, stdout, stderr } = spawnSync(process.execPath, [program, ...args], {
    cwd: root,
    encoding: 'utf8',
    env: quiet(),
  });
  if (status === 0 && sound(stdout + stderr)) passed++;
  else {
    failed++;
    console.log(stdout + stderr);
    failures.push(`${name}\n${(stdout + stderr).slice(-3000)}`);
  }
}

/** A check that counts its own tests; without a report it is one failure. */
function many(name, program, args, count) {
  console.log(`\n== ${name}`);
  const { status } = spawnSync(process.execPath, [program, ...args], {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: quiet(),
  });
  try {
    const [good, bad] = count();
    passed += good;
    failed += bad > 0 || status === 0 ? bad : 1;
    if (bad > 0 || status !== 0) failures.push(`${name}: ended with ${status}, ${bad} failed`);
  } catch (error) {
    failures.push(`${name}: ${error.message}`);
    failed++;
  }
}

function build() {
  console.log('\n== build');
  try {
    buildApplication(root);
    if (!existsSync(join(root, '.next', 'BUILD_ID'))) throw new Error('nothing was built');
    passed++;
  } catch (error) {
    failed++;
    failures.push(`build: ${error.message}`);
  }
}

function quiet() {
  return { ...process.env, NEXT_TELEMETRY_DISABLED: '1', CI: process.env.CI ?? '' };
}
