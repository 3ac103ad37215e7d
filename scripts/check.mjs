// npm run check: every check that needs no build, and the tests of the language, of rules and of mail. Installs nothing.
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { bin, CHECKS } from './checks.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const QUICK = ['text', 'mail', 'sieve', 'rules', 'flow'].map((folder) => `src/core/${folder}/`);

const all = [...CHECKS, ['quick tests', bin('vitest/vitest.mjs'), ['run', ...QUICK]]];
let failed = 0;
for (const [name, program, args, sound = () => true] of all) {
  const begun = performance.now();
  const { status, stdout, stderr } = spawnSync(process.execPath, [program, ...args], { cwd: root, encoding: 'utf8' });
  const good = status === 0 && sound(stdout + stderr);
  if (!good) {
    failed++;
    console.log(stdout + stderr);
  }
  console.log(`${good ? 'passed' : 'FAILED'}  ${name} (${((performance.now() - begun) / 1000).toFixed(1)} s)`);
}
process.exitCode = failed === 0 ? 0 : 1;
