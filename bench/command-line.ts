import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeMboxEntry } from '../src/core/mail/mbox';
import { figure, seconds } from './figures';
import { madeUpMail, madeUpScript } from './made-up';

const MESSAGES = 5000;
const RULES = 200;

/** The whole process of `cli simulate` against that of Debian's mailutils, on the same two files. */
export function benchCommandLine(): void {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'));
  const mbox = join(folder, 'mail.mbox');
  writeFileSync(mbox, Buffer.concat([...madeUpMail(MESSAGES)].map(writeMboxEntry)));
  for (const [what, stopping, wanted] of [
    ['no rule stops', 0, '0.15 of it'],
    ['a third of the rules stop', 0.33, '0.2 of it'],
  ] as const) {
    const script = join(folder, 'rules.sieve');
    const text = madeUpScript(RULES, stopping, true);
    writeFileSync(script, text);
    const ours = best(() =>
      run(process.execPath, ['scripts/cli.mjs', 'simulate', '--rules', script, '--messages', mbox]),
    );
    writeFileSync(script, text);
    const theirs = best(() =>
      run('/usr/bin/sieve', [
        '-n',
        '-v',
        '--no-program-name',
        `--mbox-url=mbox:${mbox}`,
        '--email=me@mill.example',
        script,
      ]),
    );
    const took = `${ours.toFixed(2)} s, mailutils ${theirs.toFixed(2)} s: ${(ours / theirs).toFixed(2)}`;
    figure(`simulate ${MESSAGES} messages, ${RULES} rules, ${what}`, took, wanted);
  }
  rmSync(folder, { recursive: true, force: true });
}

const best = (work: () => void): number => Math.min(...[1, 2, 3].map(() => seconds(work)));

function run(program: string, args: string[]): void {
  const { status, stderr } = spawnSync(program, args, { maxBuffer: 1 << 30, encoding: 'utf8' });
  if (status !== 0) throw new Error(`${program}: ${stderr.slice(0, 500)}`);
}
