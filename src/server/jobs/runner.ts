import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Worker } from 'node:worker_threads';
import { and, desc, eq, inArray } from 'drizzle-orm';
import { isSame } from '../../core/rules/same';
import { appRoot, databaseFile, type Store } from '../database/open';
import { isDiskFull } from '../database/reserve';
import { jobs, sources } from '../database/schema';
import { isAudited } from '../findings/results';
import { droppingSourceMail, dropSourceMail } from '../gather/mail-sources';
import { concludeFetch } from '../mailbox/conclude';
import { betweenOthers, endThread, faultOfThread, startThread } from '../threads/thread';
import type { JobRequest, Progress, WorkerReport, WorkerTask } from './job';

/**
 * Whether a request needs no new job: a waiting job will see all changes made until it starts, and the same edits are
 * previewed once.
 */
function isSameWork(job: LiveJob, request: JobRequest): boolean {
  if (bringsMail(request) || job.request.kind !== request.kind) return false;
  // Other requests say what they are about.
  return Object.keys(request).length === 1 ? job.worker === null : isSame(job.request, request);
}

/** Joined by hand, so that no bundler evaluates it. */
const workerFile = (): string => [appRoot(), 'dist', 'job.worker.mjs'].join('/');

export interface JobView {
  readonly id: string;
  readonly auditId: string;
  readonly kind: JobRequest['kind'];
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  readonly message: string;
  readonly progress: Progress | null;
  /** Milliseconds since 1970 when it started, to estimate the time left. */
  readonly startedAt: number | null;
  /** Whether it ended so shortly ago that a page may have been made before. */
  readonly hasJustEnded: boolean;
}

/** Milliseconds in which a page is made and shown, at the most. */
const SHOWN = 30_000;

/**
 * Imports run in parallel with everything else, so that the present mail can be worked with meanwhile. Computations run
 * in a long-lived thread that keeps its caches; a thread of imports takes the next one, since starting it takes longer than
 * most. The jobs of an audit in one lane run one after another; those of other
 * audits do not wait for them.
 */
type Lane = 'import' | 'work';
type MailRequest = Extract<JobRequest, { readonly sourceId: string }>;
const bringsMail = (request: JobRequest): request is MailRequest =>
  request.kind === 'import' || request.kind === 'fetch';
const laneOf = ({ request }: LiveJob): Lane => (bringsMail(request) ? 'import' : 'work');
/** Most threads at once, for a machine with few processors. */
const MOST_RUNNING: Readonly<Record<Lane, number>> = { import: 2, work: 3 };
/** Idle threads that are kept, those of the work lane with their caches. */
const MOST_IDLE: Readonly<Record<Lane, number>> = { import: 1, work: 2 };
/** Milliseconds that an idle thread waits for the next import: files often come one after another. */
const IMPORT_REST = 5000;
/** Milliseconds in which a cancelled job must react; then its thread is terminated. */
const PATIENCE: Readonly<Record<Lane, number>> = { import: 2000, work: 500 };

interface LiveJob {
  readonly id: string;
  readonly auditId: string;
  readonly request: JobRequest;
  readonly secret: string;
  readonly cancel: SharedArrayBuffer;
  worker: Worker | null;
  progress: Progress | null;
  startedAt: number | null;
}

/** Runs jobs in threads. Finished jobs are only in the database. */
export class JobRunner {
  readonly #live: LiveJob[] = [];
  /** Idle threads, with the audit they worked for, the most recently used last. */
  readonly #idle: Record<Lane, { readonly worker: Worker; readonly auditId: string }[]> = { import: [], work: [] };
  /** Audits where the remains of an import are being removed: no other import starts there meanwhile. */
  readonly #cleared = new Set<string>();
  readonly #listeners = new Map<string, Set<() => void>>();

  /** `done` is called for each job that completed. */
  constructor(
    readonly store: Store,
    readonly done: (auditId: string, request: JobRequest) => void = () => {},
  ) {}

  /** After a start of the server: removes what a killed process left behind. */
  recover(): void {
    rmSync(join(dirname(databaseFile()), 'uploads'), { recursive: true, force: true });
    const left = this.store.select().from(sources).where(eq(sources.state, 'importing')).all();
    for (const source of left) {
      dropSourceMail(this.store, source.id);
      if (source.mailbox !== null) {
        const ended = 'The server was stopped meanwhile. Fetch again to get the rest.';
        concludeFetch(this.store, source.auditId, source.id, null, ended);
        continue;
      }
      const statement = 'The server was stopped during the import. Nothing of this file was imported. Import it again.';
      this.store.update(sources).set({ state: 'interrupted', statement }).where(eq(sources.id, source.id)).run();
    }
    this.store
      .update(jobs)
      .set({ state: 'interrupted', message: 'the server was stopped', finishedAt: Date.now() })
      .where(inArray(jobs.state, ['waiting', 'running']))
      .run();
  }

  /** `secret` is kept in memory only, until the job ends. */
  start(auditId: string, request: JobRequest, secret = ''): string {
    const same = this.#live.find((job) => job.auditId === auditId && isSameWork(job, request));
    if (same) return same.id;
    if (!bringsMail(request) && request.kind !== 'repairs') this.#giveWay(auditId);
    const id = randomUUID();
    this.store
      .insert(jobs)
      .values({
        id,
        auditId,
        kind: request.kind,
        parameters: request,
        state: 'waiting',
        message: '',
        createdAt: Date.now(),
      })
      .run();
    const cancel = new SharedArrayBuffer(4);
    const job: LiveJob = { id, auditId, request, secret, cancel, worker: null, progress: null, startedAt: null };
    this.#live.push(job);
    this.#tell(auditId);
    this.#next();
    return id;
  }

  /** Repairs are tried only while no other request waits; the page asks again if the result is still wanted. */
  #giveWay(auditId: string): void {
    const tried = this.#live.filter((job) => job.auditId === auditId && job.request.kind === 'repairs');
    for (const job of tried) this.cancel(job.id);
  }

  /** Cancels a job; false if the job is no longer running. */
  cancel(id: string): boolean {
    const job = this.#live.find((candidate) => candidate.id === id);
    if (!job) return false;
    Atomics.store(new Int32Array(job.cancel), 0, 1);
    const { worker } = job;
    if (!worker) this.#end(job, 'cancelled', 'cancelled before it began');
    // What a script asks for may take long between two looks.
    else setTimeout(() => job.worker === worker && void endThread(worker), PATIENCE[laneOf(job)]).unref();
    return true;
  }

  /** The running jobs of an audit, and the newest finished one. */
  view(auditId: string): JobView[] {
    const live = this.#live
      .filter((job) => job.auditId === auditId)
      .map(
        (job): JobView => ({
          id: job.id,
          auditId,
          kind: job.request.kind,
          state: job.worker ? 'running' : 'waiting',
          message: '',
          progress: job.progress,
          startedAt: job.startedAt,
          hasJustEnded: false,
        }),
      );
    const ended = this.store
      .select()
      .from(jobs)
      .where(and(eq(jobs.auditId, auditId), inArray(jobs.state, ['done', 'failed', 'cancelled', 'interrupted'])))
      .orderBy(desc(jobs.finishedAt))
      .limit(1)
      .all()
      .map(({ id, kind, state, message, finishedAt }): JobView => {
        const hasJustEnded = Date.now() - (finishedAt ?? 0) < SHOWN;
        return { id, auditId, kind, state, message, progress: null, startedAt: null, hasJustEnded };
      });
    return [...live, ...ended];
  }

  /** A running or finished job; null if there is none. */
  maybeJob(id: string): Pick<JobView, 'state' | 'message'> | null {
    const live = this.#live.find((job) => job.id === id);
    if (live) return { state: live.worker ? 'running' : 'waiting', message: '' };
    return this.store.select().from(jobs).where(eq(jobs.id, id)).get() ?? null;
  }

  isBusy(auditId: string): boolean {
    return this.#live.some((job) => job.auditId === auditId);
  }

  /** Calls `listener` at every change of the audit's jobs; returns a function that stops the calls. */
  listen(auditId: string, listener: () => void): () => void {
    const listeners = this.#listeners.get(auditId) ?? new Set();
    this.#listeners.set(auditId, listeners.add(listener));
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) this.#listeners.delete(auditId);
    };
  }

  /** Terminates all threads at once; `recover` removes what they leave behind. */
  async close(): Promise<void> {
    const idle = [...this.#idle.import, ...this.#idle.work].map(({ worker }) => endThread(worker));
    await Promise.all([...idle, ...this.#live.map((job) => job.worker && endThread(job.worker))]);
  }

  /** Starts every job that need not wait. */
  #next(): void {
    for (const lane of ['import', 'work'] as const) {
      const ofLane = this.#live.filter((job) => laneOf(job) === lane);
      const busy = new Set(ofLane.flatMap((job) => (job.worker ? [job.auditId] : [])));
      for (const job of ofLane) {
        if (job.worker || busy.has(job.auditId) || busy.size >= MOST_RUNNING[lane]) continue;
        if (lane === 'import' && this.#cleared.has(job.auditId)) continue;
        busy.add(job.auditId);
        this.#begin(job);
      }
    }
  }

  #begin(job: LiveJob): void {
    job.startedAt = Date.now();
    const task: WorkerTask = {
      auditId: job.auditId,
      request: job.request,
      databaseFile: databaseFile(),
      secret: job.secret,
      cancel: job.cancel,
    };
    const worker = this.#takeIdle(job) ?? startThread(workerFile());
    job.worker = worker;
    this.store.update(jobs).set({ state: 'running' }).where(eq(jobs.id, job.id)).run();
    for (const event of ['message', 'error', 'exit']) worker.removeAllListeners(event);
    worker.on('message', (report: WorkerReport) => this.#hear(job, report));
    worker.on('error', (error) => this.#lose(job, worker, faultOfThread(error)));
    worker.on('exit', () => this.#lose(job, worker, 'the thread ended early'));
    worker.postMessage(task);
    this.#tell(job.auditId);
  }

  /** The thread that worked for the same audit, else the thread idle longest. */
  #takeIdle(job: LiveJob): Worker | null {
    const idle = this.#idle[laneOf(job)];
    const same = idle.findIndex((one) => one.auditId === job.auditId);
    return idle.splice(Math.max(same, 0), 1)[0]?.worker ?? null;
  }

  #rest(worker: Worker, job: LiveJob): void {
    const lane = laneOf(job);
    const idle = this.#idle[lane];
    const resting = { worker, auditId: job.auditId };
    idle.push(resting);
    for (const { worker: oldest } of idle.splice(0, Math.max(0, idle.length - MOST_IDLE[lane]))) void endThread(oldest);
    if (lane === 'work') return;
    setTimeout(() => {
      const at = idle.indexOf(resting);
      if (at < 0) return;
      // Until it has ended, a job could still be given to it.
      idle.splice(at, 1);
      void endThread(worker);
    }, IMPORT_REST).unref();
  }

  /** A terminated thread runs no further job. */
  #lose(job: LiveJob, worker: Worker, message: string): void {
    const idle = this.#idle[laneOf(job)];
    const at = idle.findIndex((one) => one.worker === worker);
    if (at >= 0) idle.splice(at, 1);
    job.worker = null;
    const asked = Atomics.load(new Int32Array(job.cancel), 0) !== 0;
    this.#end(job, asked ? 'cancelled' : 'failed', asked ? 'cancelled' : message);
  }

  #hear(job: LiveJob, report: WorkerReport): void {
    switch (report.kind) {
      case 'progress':
        job.progress = report.progress;
        this.#tell(job.auditId);
        return;
      case 'done':
        this.#end(job, 'done', report.message);
        this.done(job.auditId, job.request);
        return;
      case 'cancelled':
        this.#end(job, 'cancelled', 'cancelled');
        return;
      case 'failed':
        this.#end(job, 'failed', report.message);
        return;
      default:
        report satisfies never;
    }
  }

  /** Only the first report of a job's end counts; later ones from the thread are ignored. */
  #end(job: LiveJob, state: 'done' | 'failed' | 'cancelled', message: string): void {
    const at = this.#live.indexOf(job);
    if (at < 0) return;
    this.#live.splice(at, 1);
    const { worker } = job;
    job.worker = null;
    // An import that ended early may have left batches in its threads.
    if (worker && (laneOf(job) === 'work' || state === 'done')) this.#rest(worker, job);
    else if (worker) void endThread(worker);
    if (job.request.kind === 'import' && job.request.ours) void rm(job.request.file, { force: true });
    try {
      this.store.update(jobs).set({ state, message, finishedAt: Date.now() }).where(eq(jobs.id, job.id)).run();
      this.#afterImport(job, state);
    } catch (error) {
      // If the disk is too full even for this, the next start removes the remains.
      if (!isDiskFull(error)) throw error;
    }
    this.#tell(job.auditId);
    this.#next();
  }

  #afterImport(job: LiveJob, state: 'done' | 'failed' | 'cancelled'): void {
    if (!bringsMail(job.request)) return;
    const { sourceId } = job.request;
    const source = this.store.select().from(sources).where(eq(sources.id, sourceId)).get();
    if (source?.state === 'importing') {
      void this.#clear(job, sourceId, state);
      if (job.request.kind === 'fetch') return;
      const ended = state === 'cancelled' ? 'cancelled' : 'refused';
      const statement =
        state === 'cancelled'
          ? 'Cancelled. Nothing of this file was imported.'
          : 'Nothing of this file was imported: reading it failed.';
      this.store.update(sources).set({ state: ended, statement }).where(eq(sources.id, sourceId)).run();
    } else this.#simulateAfter(job.auditId, source?.state === 'ready');
  }

  /** Once no more mail comes, if there is new mail, or what was said of the old is out of date. */
  #simulateAfter(auditId: string, isNew: boolean): void {
    if (this.#live.some((other) => other.auditId === auditId && bringsMail(other.request))) return;
    if (isNew || !isAudited(this.store, auditId)) this.start(auditId, { kind: 'simulate' });
  }

  async #clear({ auditId, request }: LiveJob, sourceId: string, state: 'done' | 'failed' | 'cancelled'): Promise<void> {
    this.#cleared.add(auditId);
    try {
      await betweenOthers(droppingSourceMail(this.store, sourceId));
      if (request.kind === 'fetch') {
        const how = state === 'cancelled' ? 'Cancelled.' : 'Fetching failed.';
        concludeFetch(this.store, auditId, sourceId, null, `${how} Fetch again to get the rest.`);
        this.#simulateAfter(auditId, true);
      }
    } catch (error) {
      // If the disk is too full even for this, the next start removes the remains.
      console.error(error);
    }
    this.#cleared.delete(auditId);
    this.#tell(auditId);
    this.#next();
  }

  #tell(auditId: string): void {
    for (const listener of this.#listeners.get(auditId) ?? []) listener();
  }
}
