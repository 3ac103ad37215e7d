import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { idle, pause, Served } from './server';

/** Kills the server in the middle of its work, and checks what the next one finds. */

const FROM = 'From x@y.example Thu Jan  1 10:00:00 2026';
const SCRIPT = `require "fileinto";
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
# Elm
if header :contains "subject" "elm" { fileinto "Elm"; }
# Rest
if header :contains "subject" "oak and elm" { discard; }
`;

const mail = (count: number, word: string): string =>
  Array.from({ length: count }, (_, n) => {
    const day = String((n % 28) + 1);
    return `${FROM}\nFrom: Ann <a${n % 97}@x.example>\nTo: me@mill.example\nSubject: ${word} ${n}\nDate: ${day} Jan 2026 10:00:00 +0000\n\nwords ${n} ${'and more '.repeat(n % 60)}\n\n`;
  }).join('');

const WORKS = ['import', 'repair', 'audit', 'export', 'delete', 'seed'] as const;
export type Work = (typeof WORKS)[number];

export interface Killed {
  readonly work: Work;
  /** Milliseconds after the request. */
  readonly after: number;
  /** What did not hold; empty if all did. */
  readonly faults: readonly string[];
}

/** `random` returns numbers from 0 to 1. */
export async function kills(root: string, count: number, random: () => number): Promise<Killed[]> {
  const found: Killed[] = [];
  for (let at = 0; at < count; at++) {
    const work = WORKS[at % WORKS.length] as Work;
    const file = join(root, `kill-${at}.sqlite`);
    const killed = work === 'seed' ? killedSeed(file, random) : killedServer(file, work, random);
    found.push(await killed.catch((error: Error) => ({ work, after: 0, faults: [error.message] })));
    for (const end of ['', '-wal', '-shm', '.owner', '.reserve']) rmSync(`${file}${end}`, { force: true });
  }
  return found;
}

async function killedServer(file: string, work: Exclude<Work, 'seed'>, random: () => number): Promise<Killed> {
  const first = await Served.start(file);
  const kept = await first.begin('kept');
  await first.send(kept, 'rules.sieve', SCRIPT);
  await first.send(kept, 'INBOX.mbox', mail(800, 'oak'));
  await idle(first, kept);
  const before = await archive(first, kept);
  const doomed = work === 'delete' ? await first.begin('doomed') : kept;
  if (work === 'delete') {
    await first.send(doomed, 'INBOX.mbox', mail(3000, 'elm'));
    await idle(first, doomed);
  }
  // The request continues while the server is killed.
  const asked = ask(first, work, doomed).catch(() => {});
  const after = Math.round(random() * { import: 2500, repair: 300, audit: 1500, export: 1500, delete: 400 }[work]);
  await pause(after);
  await first.kill();
  await asked;
  return { work, after, faults: await faultsAfter(file, work, kept, doomed, before) };
}

async function ask(server: Served, work: Exclude<Work, 'seed'>, id: string): Promise<void> {
  switch (work) {
    case 'import':
      await server.send(id, 'More.mbox', mail(8000, 'elm'));
      return;
    case 'repair':
      for (let on = 0; on < 40; on++) {
        const edits = [{ kind: 'switch', id: 'r1', on: on % 2 === 1 }];
        await server.json('POST', `/api/audits/${id}/edits`, { edits, why: 'drill' });
      }
      return;
    case 'audit':
      await server.json('POST', `/api/audits/${id}/jobs`, { kind: 'simulate' });
      return;
    case 'export':
      await server.json('POST', `/api/audits/${id}/jobs`, { kind: 'verify' });
      return;
    case 'delete':
      await server.json('DELETE', `/api/audits/${id}`);
      return;
    default:
      work satisfies never;
  }
}

interface Archive {
  readonly messages: number;
  readonly changes: number;
  readonly rules: number;
}

async function faultsAfter(file: string, work: Work, kept: string, doomed: string, before: Archive): Promise<string[]> {
  const faults: string[] = [];
  const next = await Served.start(file);
  try {
    await idle(next, kept);
    const now = await archive(next, kept);
    if (now.messages !== before.messages && !(work === 'import' && now.messages === before.messages + 8000)) {
      faults.push(`${now.messages} messages where ${before.messages} were`);
    }
    if (now.rules !== before.rules) faults.push(`${now.rules} rules where ${before.rules} were`);
    if (work !== 'repair' && now.changes !== before.changes) faults.push('changes were lost or made up');
    if (work === 'import' && now.messages === before.messages) {
      const status = await next.send(kept, 'More.mbox', mail(8000, 'elm'));
      if (status !== 201) faults.push(`the file could not be sent again: ${status}`);
      await idle(next, kept);
      const again = await archive(next, kept);
      if (again.messages !== before.messages + 8000) faults.push(`${again.messages} messages after it was sent again`);
    }
    if (work === 'delete') {
      const { status } = await next.json('GET', `/api/audits/${doomed}/history`);
      const left = count(file, doomed);
      if (status === 404 && left > 0) faults.push(`${left} messages of the deleted audit are left`);
    }
  } finally {
    await next.kill();
  }
  const database = new Database(file);
  const sound = database.pragma('integrity_check', { simple: true });
  if (sound !== 'ok') faults.push(`the database is damaged: ${sound}`);
  if ((database.pragma('foreign_key_check') as unknown[]).length > 0) faults.push('rows belong to nothing');
  database.close();
  return faults;
}

function count(file: string, id: string): number {
  const database = new Database(file, { readonly: true });
  const found = database.prepare('select count(*) from message where audit_id = ?').pluck().get(id) as number;
  database.close();
  return found;
}

async function archive(server: Served, id: string): Promise<Archive> {
  const { data } = await server.json('GET', `/api/audits/${id}/archive`);
  const { changes, baseline } = data as { changes: unknown[]; baseline: { entries: unknown[] } };
  const listed = (await server.json('GET', `/api/audits/${id}/messages?limit=1`)).data as { total: number };
  return { messages: listed.total, changes: changes.length, rules: baseline.entries.length };
}

/** Kills the seeding of the demo, and repeats it. */
async function killedSeed(file: string, random: () => number): Promise<Killed> {
  const seed = () =>
    spawn(process.execPath, ['dist/seed.mjs'], { env: { ...process.env, YSOMERIS_DATABASE: file }, stdio: 'ignore' });
  const first = seed();
  const after = Math.round(random() * 8000);
  await Promise.race([pause(after), once(first, 'exit')]);
  first.kill('SIGKILL');
  if (first.exitCode === null && first.signalCode === null) await once(first, 'exit');
  const second = seed();
  const [status] = (await once(second, 'exit')) as [number];
  const faults: string[] = [];
  if (status !== 0) faults.push(`the second seeding ended with ${status}`);
  if (existsSync(file)) {
    const database = new Database(file, { readonly: true });
    const [stored, counted] = [
      database.prepare("select count(*) from message where audit_id = 'demo'").pluck().get(),
      database.prepare("select message_count from audit where id = 'demo'").pluck().get(),
    ];
    if (stored !== counted || (stored as number) < 4000) faults.push(`${stored} messages, ${counted} counted`);
    if (database.pragma('integrity_check', { simple: true }) !== 'ok') faults.push('the database is damaged');
    database.close();
  } else faults.push('there is no database');
  return { work: 'seed', after, faults };
}
