import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'vitest';
import { envelopeOf, readMessage } from '../mail/message';
import { check } from '../sieve/check';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { printArgument } from '../sieve/print';
import { elementAt } from '../text/lookup';

/** The independent interpreter of Debian's mailutils, in a dry run on an mbox of messages. */
export class Mailutils {
  readonly #folder = mkdtempSync(join(tmpdir(), 'sieve-'));
  readonly #mbox = join(this.#folder, 'mail.mbox');

  constructor(readonly messages: readonly string[]) {
    const entries = messages.map((text) => {
      // The next separator needs an empty line before it, and no line of a message may look like one.
      const inside = text.replace(/^From /gm, '>From ');
      return `From x@y.example Thu Jan  1 10:00:00 2026\n${inside}${inside.endsWith('\n') ? '' : '\n'}\n`;
    });
    writeFileSync(this.#mbox, entries.join(''));
  }

  /** The result for each message, as sorted words. */
  run(source: string): string[] {
    const file = join(this.#folder, 'script.sieve');
    writeFileSync(file, source);
    const settings = ['--mailer=sendmail:/bin/true', `--mbox-url=mbox:${this.#mbox}`, '--email=me@mill.example'];
    const args = ['-n', '-v', '--no-program-name', ...settings, file];
    const { stdout, stderr, status, error } = spawnSync('/usr/bin/sieve', args, {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    });
    if (error) throw error;
    expect({ status, stderr: status === 0 ? '' : stderr, source }).toEqual({ status: 0, stderr: '', source });
    const actions = this.messages.map(() => new Set<string>());
    for (const line of (stdout + stderr).split('\n')) {
      const parts = LINE.exec(line);
      if (parts) actions[Number(parts[2]) - 1]?.add(`${parts[1]} ${parts[3] ?? ''}`.trim());
    }
    return actions.map((set) => {
      // A discard only cancels the implicit keep; without a delivery or rejection, the implicit keep applies.
      const done = [...set].filter((word) => word !== 'DISCARD');
      const kept = ![...set].some((word) => !/HEADER /.test(word));
      return [...done, ...(kept ? ['KEEP'] : [])].sort().join('; ');
    });
  }

  close(): void {
    rmSync(this.#folder, { recursive: true, force: true });
  }
}

const LINE =
  /: (FILEINTO|KEEP|DISCARD|REDIRECT|REJECT|ADDHEADER|DELETEHEADER) on msg uid (\d+)(?:: (?:delivering into|to|marking as deleted)? ?(.*))?$/;

/** The result of our interpreter, in the same words. */
export function runOurs(source: string, messages: readonly string[]): string[] {
  const { script: tree, diagnostics } = parse(source.replace('"redirect", ', ''));
  expect([...diagnostics, ...check(tree)].map(({ code }) => ({ code, source }))).toEqual([]);
  const run = interpreter(tree);
  return messages.map((text) => {
    const read = readMessage(new TextEncoder().encode(text));
    const { fate, trace } = run(read, envelopeOf(read, null), { trace: true });
    const edits = (trace ?? []).flatMap((step) => {
      if (step.kind !== 'action' || !/^(add|delete)header$/.test(step.node.name)) return [];
      const [name, value] = step.node.args
        .filter(({ kind }) => kind !== 'tag')
        .map((arg) => printArgument(arg).slice(1, -1));
      return [step.node.name === 'addheader' ? `ADDHEADER ${name}: ${value}` : `DELETEHEADER ${name}`];
    });
    const deliveries = fate.deliveries.map(({ folder: name }) =>
      name === 'INBOX' ? 'KEEP' : `FILEINTO ${name}`.trim(),
    );
    const redirects = fate.redirects.map((address) => `REDIRECT ${address}`);
    const words = new Set([...deliveries, ...redirects, ...edits, ...(fate.rejected ? ['REJECT'] : [])]);
    return [...words].sort().join('; ');
  });
}

/** Runs each script both ways on all messages; any difference fails. Returns the results that occurred. */
export function compareRuns(mailutils: Mailutils, sources: readonly string[]): { runs: number; outcomes: Set<string> } {
  let runs = 0;
  const outcomes = new Set<string>();
  for (const source of sources) {
    const theirs = mailutils.run(source);
    const ours = runOurs(source, mailutils.messages);
    mailutils.messages.forEach((text, index) => {
      expect({ source, text, outcome: ours[index] }).toEqual({ source, text, outcome: theirs[index] });
      outcomes.add(elementAt(ours, index));
      runs++;
    });
  }
  return { runs, outcomes };
}
