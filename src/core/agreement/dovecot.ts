import { spawnSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readMessage } from '../mail/message';
import { check } from '../sieve/check';
import { normalFlags } from '../sieve/interpret/fate';
import { type Interpreter, interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { elementAt } from '../text/lookup';

/** The user it runs as, since it refuses to run as root. */
const USER = 'sieve-reference';

/** The independent interpreter of Debian's dovecot-sieve, in a dry run on a Maildir of messages. */
export class Dovecot {
  readonly #folder = mkdtempSync(join(tmpdir(), 'dovecot-'));
  readonly #config = join(this.#folder, 'dovecot.conf');

  /** Each message needs a unique Message-ID, by which its result is found. */
  constructor(readonly messages: readonly Uint8Array[]) {
    chmodSync(this.#folder, 0o755);
    const mail = join(this.#folder, 'mail');
    for (const place of ['cur', 'new', 'tmp']) mkdirSync(join(mail, place), { recursive: true });
    messages.forEach((raw, index) => {
      writeFileSync(join(mail, 'cur', `1000000000.M${String(index).padStart(6, '0')}.x:2,`), raw);
    });
    writeFileSync(
      this.#config,
      [
        'protocols =',
        'ssl = no',
        'log_path = /dev/stderr',
        `mail_location = maildir:${mail}`,
        `base_dir = ${join(this.#folder, 'base')}`,
        `mail_home = ${this.#folder}`,
        'stats_writer_socket_path =',
        'recipient_delimiter = +',
        'plugin {',
        '  sieve_max_actions = 0',
        '  sieve_max_redirects = 100',
        '  sieve_extensions = +editheader',
        '}',
        '',
      ].join('\n'),
    );
    if (process.getuid?.() === 0) {
      if (run('id', [USER]).status !== 0) mustRun('useradd', ['-M', '-s', '/usr/sbin/nologin', USER]);
      mustRun('chown', ['-R', USER, this.#folder]);
    }
  }

  /** The result for each message, as sorted words; null for messages on which it fails. */
  filter(source: string): (string | null)[] {
    const script = this.#write(source);
    const { stdout, status } = this.#run('sieve-filter', ['-C', script, 'INBOX']);
    const outcomes = new Map<string, string | null>();
    for (const block of stdout.split('>> Filtering message:').slice(1)) {
      const id = /^ {2}ID: {6}(.*)$/m.exec(block)?.[1]?.trim() ?? '';
      outcomes.set(id, outcomeIn(block));
    }
    return this.messages.map((raw) => {
      const id = idOf(raw);
      if (!outcomes.has(id))
        throw new Error(`nothing is told of ${id} (${status}):\n${stdout.slice(0, 2000)}\n${source}`);
      return outcomes.get(id) ?? null;
    });
  }

  /** The same for one message with an envelope. */
  test(source: string, index: number, from: string, to: string): string | null {
    const script = this.#write(source);
    const file = join(this.#folder, 'one.eml');
    writeFileSync(file, elementAt(this.messages, index));
    chmodSync(file, 0o644);
    const { stdout, status } = this.#run('sieve-test', ['-C', '-f', from, '-r', to, '-a', to, script, file]);
    if (status !== 0) throw new Error(`${stdout}\n${source}`);
    return outcomeIn(stdout);
  }

  /** Whether it accepts a script; otherwise its error. */
  compile(source: string): string | null {
    const script = this.#write(source);
    const { stdout, status } = this.#run('sievec', [script, join(this.#folder, 'script.svbin')]);
    return status === 0 ? null : stdout;
  }

  close(): void {
    rmSync(this.#folder, { recursive: true, force: true });
  }

  #write(source: string): string {
    const script = join(this.#folder, 'script.sieve');
    writeFileSync(script, source.replace(/\r?\n/g, '\r\n'));
    chmodSync(script, 0o644);
    return script;
  }

  #run(program: string, args: readonly string[]) {
    const whole = ['-c', this.#config, ...args];
    const env = { ...process.env, HOME: this.#folder };
    const asUser = ['setpriv', '--reuid', USER, '--regid', USER, '--clear-groups'];
    // Errors and results are interleaved in its output, in one order.
    const words = [...(process.getuid?.() === 0 ? asUser : []), program, ...whole];
    return run('sh', ['-c', 'exec "$@" 2>&1', 'sh', ...words], env);
  }
}

function run(program: string, args: readonly string[], env = process.env) {
  const done = spawnSync(program, args, { encoding: 'utf8', env, maxBuffer: 1 << 30 });
  if (done.error) throw done.error;
  return done;
}

function mustRun(program: string, args: readonly string[]): void {
  const { status, stderr } = run(program, args);
  if (status !== 0) throw new Error(`${program} failed: ${stderr}`);
}

const idOf = (raw: Uint8Array): string =>
  /^Message-ID: (.*)$/im.exec(Buffer.from(raw).toString('latin1'))?.[1]?.trim() ?? '';

/** The parts of its report on one message. */
function outcomeIn(report: string): string | null {
  if (/^error: sieve script execution failed/m.test(report)) return null;
  const words: string[] = [];
  let flags: string | null = null;
  for (const line of report.split('\n')) {
    const stored = /^ \* store message in folder: (.*)$/.exec(line)?.[1];
    const sent = /^ \* redirect message to: <(.*)>$/.exec(line)?.[1];
    const marked = /^ {8}\+ add IMAP flags: ?(.*)$/.exec(line)?.[1];
    if (stored !== undefined) words.push(wordFor(stored.toUpperCase() === 'INBOX' ? 'INBOX' : stored, ''));
    if (sent !== undefined) words.push(`> ${sent}`);
    if (/^ \* reject message/.test(line)) words.push('refused');
    if (marked !== undefined) {
      flags = words.pop()?.replace(/ \[.*$/, '') ?? '';
      words.push(wordFor(flags, marked));
    }
  }
  return [...new Set(words)].sort().join('; ');
}

/** It prints folder names without spaces at their ends. */
const wordFor = (folder: string, flags: string): string =>
  `${folder.trim()} [${normalFlags([flags]).sort().join(' ')}]`;

/** The result of our interpreter, in the same words. */
export function runOurs(source: string, messages: readonly Uint8Array[]): (string | null)[] {
  const run = prepared(source);
  return messages.map((raw) => ourOutcome(run, raw, { from: null, to: null }));
}

export function prepared(source: string): Interpreter {
  const { script, diagnostics } = parse(source);
  const faults = [...diagnostics, ...check(script)].map(({ code }) => code);
  if (faults.length > 0) throw new Error(`${faults.join(', ')} in ${source}`);
  return interpreter(script);
}

export function ourOutcome(
  run: Interpreter,
  raw: Uint8Array,
  envelope: { from: string | null; to: string | null },
): string | null {
  const { fate, error } = run(readMessage(raw), envelope);
  if (error !== null) return null;
  const words = [
    ...fate.deliveries.map(({ folder, flags }) => wordFor(folder, flags.join(' '))),
    ...fate.redirects.map((address) => `> ${address}`),
    ...(fate.rejected ? ['refused'] : []),
  ];
  return words.sort().join('; ');
}
