import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { given } from '../../../test/given';
import {
  addFile,
  audit,
  body,
  databases,
  FROM,
  fill,
  goTo,
  id,
  MAIL,
  root,
  SCRIPT,
  store,
  withAudit,
} from '../../../test/harness';
import { createAudit, getAudit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { sources } from '../database/schema';
import { importFile } from '../gather/import-file';
import type { JobRequest } from './job';
import { JobRunner } from './runner';

/** Jobs in the threads they run in for users. */

withAudit();

let jobs: JobRunner;
/** Completed jobs, in order. */
let finished: string[];
/** A file with the kinds of the threads that were started. */
let started: string;

beforeEach(() => {
  // The database is migrated; from here on the root is only asked for the thread bundles.
  const application = mkdtempSync(join(root, 'application-'));
  mkdirSync(join(application, 'dist'));
  for (const name of ['job', 'prepare', 'share']) {
    writeFileSync(
      join(application, 'dist', `${name}.worker.mjs`),
      `import { appendFileSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
appendFileSync(${JSON.stringify(join(application, 'started'))}, '${name} ');
import { register } from ${JSON.stringify(import.meta.resolve('tsx/esm/api'))};
register();
await import(${JSON.stringify(join(import.meta.dirname, `${name}.worker.ts`))});
parentPort.on('message', ({ request }) => { 
  if (request?.file === 'its end') process.exit(1);
  const held = [];
  if (request?.file === 'too much') for (;;) held.push(new Array(100_000).fill(held.length + 0.5));
});
`,
    );
  }
  vi.stubEnv('APP_ROOT', application);
  started = join(application, 'started');
  finished = [];
  jobs = new JobRunner(store, (_audit, { kind }) => finished.push(kind));
});

afterEach(async () => {
  vi.unstubAllEnvs();
  await jobs.close();
});

/** Waits until the jobs of the audit meet a condition. */
function until(isSo: () => boolean): Promise<void> {
  return new Promise((resolve) => {
    const look = () => {
      if (!isSo()) return;
      stop();
      resolve();
    };
    const stop = jobs.listen(id, look);
    look();
  });
}
const idle = () => until(() => !jobs.isBusy(id));
const stateOf = (job: string) => jobs.maybeJob(job)?.state;
const many = (count: number) => Array.from({ length: count }, (_, n) => `${FROM}\nSubject: oak ${n}\n\nwords\n\n`);

test('mail is read and then simulated, in threads; a repetition that waits is no further job', async () => {
  await importFile(store, jobs, id, 'rules.sieve', body(SCRIPT));
  await importFile(store, jobs, id, 'INBOX.mbox', body(MAIL));
  await idle();
  expect(finished).toContain('import');
  expect(finished.at(-1)).toBe('simulate');
  expect(audit().messageCount).toBe(5);
  expect(maybeFlow(store, audit(), audit().draft)).not.toBeNull();
  expect(jobs.view(id).map(({ state }) => state)).toEqual(['done']);

  const first = jobs.start(id, { kind: 'simulate' });
  expect(stateOf(first)).toBe('running');
  // The running job may have read the draft before its last change; a waiting one has not.
  const second = jobs.start(id, { kind: 'simulate' });
  expect(second).not.toBe(first);
  expect(jobs.start(id, { kind: 'simulate' })).toBe(second);
  expect(jobs.view(id).map(({ state }) => state)).toEqual(['running', 'waiting', 'done']);
  await idle();
  expect([first, second].map(stateOf)).toEqual(['done', 'done']);
});

test('imports one after another have one thread and one that prepares; one that is ended early leaves none', async () => {
  for (const name of ['A', 'B', 'C']) await importFile(store, jobs, id, `${name}.mbox`, body(...many(3), name));
  await idle();
  expect(audit().messageCount).toBe(9);
  const starts = () => readFileSync(started, 'utf8').split(' ');
  expect(starts().filter((name) => name === 'prepare')).toHaveLength(1);
  // The other one computes.
  expect(starts().filter((name) => name === 'job')).toHaveLength(2);
  await importFile(store, jobs, id, 'D.mbox', body(...many(30_000)));
  for (const { id: job, kind } of jobs.view(id)) if (kind === 'import') jobs.cancel(job);
  await idle();
  await importFile(store, jobs, id, 'E.mbox', body(...many(5), 'E'));
  await idle();
  expect(audit().messageCount).toBe(14);
  expect(starts().filter((name) => name === 'prepare').length).toBeGreaterThan(1);
});

test('a job that waits is cancelled at once, one that runs as soon as it looks up; an import leaves nothing then', async () => {
  const [long, next] = ['A.mbox', 'B.mbox'];
  await importFile(store, jobs, id, long, body(...many(30_000)));
  await importFile(store, jobs, id, next, body(...many(5)));
  const under = jobs.view(id).filter(({ kind }) => kind === 'import');
  expect(under.map(({ state }) => state)).toEqual(['running', 'waiting']);
  const [running, waiting] = [given(under[0]).id, given(under[1]).id];
  expect(jobs.cancel(waiting)).toBe(true);
  expect(stateOf(waiting)).toBe('cancelled');
  expect(jobs.cancel(running)).toBe(true);
  await idle();
  expect(stateOf(running)).toBe('cancelled');
  expect(jobs.cancel(running)).toBe(false);
  const kept = store.select().from(sources).all();
  expect(kept.map(({ state, messages, statement }) => [state, messages, statement])).toEqual(
    [1, 2].map(() => ['cancelled', 0, 'Cancelled. Nothing of this file was imported.']),
  );
  expect(audit().messageCount).toBe(0);
  expect(finished).toEqual([]);
});

test('a thread that ends early fails its job, and the next job has a thread again', async () => {
  await fill();
  const request: JobRequest = { kind: 'import', sourceId: 'none', file: 'its end', ours: false };
  const lost = jobs.start(id, request);
  const work = jobs.start(id, { kind: 'simulate' });
  await idle();
  expect(jobs.maybeJob(lost)).toMatchObject({ state: 'failed', message: 'the thread ended early' });
  expect(stateOf(work)).toBe('done');
  const again = jobs.start(id, { kind: 'import', sourceId: 'none', file: 'nowhere', ours: false });
  await idle();
  expect(jobs.maybeJob(again)).toMatchObject({ state: 'failed', message: 'no source none' });
  expect(audit().messageCount).toBe(5);
});

test('a thread that needs too much memory fails its job, and the server lives on', async () => {
  await fill();
  vi.stubEnv('YSOMERIS_THREAD_MB', '250');
  const greedy = jobs.start(id, { kind: 'import', sourceId: 'none', file: 'too much', ours: false });
  await idle();
  const message = 'it needed more memory than the 250 MB that a thread may use';
  expect(jobs.maybeJob(greedy)).toMatchObject({ state: 'failed', message });
  const work = jobs.start(id, { kind: 'simulate' });
  await idle();
  expect(stateOf(work)).toBe('done');
});

test('an import that comes just when a resting thread ends has another one', async () => {
  const file = join(root, `${databases}-rest.mbox`);
  writeFileSync(file, MAIL);
  vi.useFakeTimers({ toFake: ['setTimeout'] });
  try {
    await importFile(store, jobs, id, 'A.mbox', body(MAIL));
    await idle();
    vi.advanceTimersByTime(60_000);
    const { id: sourceId } = given(store.select().from(sources).get());
    const next = jobs.start(id, { kind: 'import', sourceId, file, ours: false });
    await idle();
    expect(jobs.maybeJob(next)).toMatchObject({ state: 'done' });
  } finally {
    vi.useRealTimers();
  }
});

test('a file that was sent is removed when it has been read; a file of the user stays', async () => {
  const file = join(root, `${databases}-own.mbox`);
  writeFileSync(file, MAIL);
  store
    .insert(sources)
    .values({
      id: 'own',
      auditId: id,
      fileName: 'own.mbox',
      digest: 'x',
      folder: 'INBOX',
      bytes: MAIL.length,
      state: 'importing',
      firstMessage: 0,
      messages: 0,
      statement: '',
      createdAt: 0,
    })
    .run();
  jobs.start(id, { kind: 'import', sourceId: 'own', file, ours: false });
  await idle();
  expect([audit().messageCount, existsSync(file)]).toEqual([5, true]);
  const copy = jobs.start(id, { kind: 'import', sourceId: 'own', file, ours: true });
  await idle();
  expect(stateOf(copy)).toBe('done');
  await vi.waitFor(() => expect(existsSync(file)).toBe(false), { timeout: 60_000 });
});

test('repairs are tried only while nothing else is asked for; what asks for mail goes on', async () => {
  await fill();
  const first = jobs.start(id, { kind: 'simulate' });
  const repairs = jobs.start(id, { kind: 'repairs', finding: 'redundant r1' });
  expect(jobs.start(id, { kind: 'repairs', finding: 'redundant r1' })).toBe(repairs);
  const weighed = jobs.start(id, { kind: 'weigh', edits: [] });
  expect(stateOf(repairs)).toBe('cancelled');
  await idle();
  expect([first, weighed].map(stateOf)).toEqual(['done', 'done']);
});

test('audits are told of their own jobs, and of no others', async () => {
  await addFile('rules.sieve', SCRIPT);
  const other = createAudit(store, 'another');
  const told = { here: 0, there: 0 };
  const stops = [jobs.listen(id, () => told.here++), jobs.listen(other, () => told.there++)];
  jobs.start(id, { kind: 'simulate' });
  expect(jobs.isBusy(other)).toBe(false);
  await idle();
  expect(told.here).toBeGreaterThanOrEqual(3);
  expect(told.there).toBe(0);
  for (const stop of stops) stop();
  const before = told.here;
  jobs.start(id, { kind: 'simulate' });
  await idle();
  expect(told.here).toBe(before);
  expect(getAudit(store, other).messageCount).toBe(0);
});

/**
 * Starts a simulation that spends minutes in one single step: an expression on a text of 4 MB. Returns the id of its
 * job.
 */
async function beginEndless(): Promise<string> {
  const text = 'a'.repeat(4_000_000);
  await importFile(store, jobs, id, 'A.mbox', body(MAIL, `${FROM}\nSubject: x\n\n${text}\n\n`));
  await idle();
  const expression = `(${'a?'.repeat(1500)})+b`;
  const slow = `require ["regex", "body"];\n# Slow\nif body :text :regex "${expression}" { keep; }\n`;
  await importFile(store, jobs, id, 'slow.sieve', body(slow));
  const job = jobs.start(id, { kind: 'simulate' });
  await until(() => jobs.view(id)[0]?.progress?.phase === 'evaluating tests');
  return job;
}

test('a long job of one audit does not hold up another audit', async () => {
  const long = id;
  const slow = await beginEndless();
  goTo(createAudit(store, 'another'));
  await importFile(store, jobs, id, 'B.mbox', body(MAIL));
  await importFile(store, jobs, id, 'rules.sieve', body(SCRIPT));
  await idle();
  expect(audit().messageCount).toBe(5);
  expect(maybeFlow(store, audit(), audit().draft)).not.toBeNull();
  expect(stateOf(slow)).toBe('running');
  goTo(long);
  jobs.cancel(slow);
  await idle();
});

test('a job that does not look whether to go on is ended with its thread, and leaves nothing', async () => {
  const work = await beginEndless();
  jobs.cancel(work);
  await idle();
  expect(stateOf(work)).toBe('cancelled');
  await addFile('rules.sieve', SCRIPT);
  expect(audit().baseline.entries).toHaveLength(5);
});
