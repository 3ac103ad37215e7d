import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeEach, vi } from 'vitest';
import { type Audit, createAudit, getAudit } from '../src/server/audits/audits';
import { migrateStore, type OpenStore, openStore } from '../src/server/database/open';
import { importFile } from '../src/server/gather/import-file';
import type { JobContext, JobRequest } from '../src/server/jobs/job';
import { perform } from '../src/server/jobs/perform';

export const root = mkdtempSync(join(tmpdir(), 'audits-'));

/** Created for each test. */
export let store: OpenStore;
export let id: string;
/** Continues with another audit. */
export function goTo(auditId: string): void {
  id = auditId;
}
/** The work of the runner. */
export let asked: JobRequest[];
export const runner = { start: (_audit: string, request: JobRequest) => String(asked.push(request)) };
export const job = (checkpoint = () => {}): JobContext => ({ auditId: id, report: () => {}, checkpoint });
export let databases = 0;

/** To be called once in a test file. */
export function withAudit(): void {
  afterAll(() => rmSync(root, { recursive: true, force: true }));
  beforeEach(() => {
    const file = join(root, `${databases++}`, 'test.sqlite');
    vi.stubEnv('YSOMERIS_DATABASE', file);
    store = openStore(file);
    migrateStore(store);
    id = createAudit(store, 'test');
    asked = [];
  });
}

export async function* body(...parts: (string | Uint8Array)[]) {
  for (const part of parts) yield typeof part === 'string' ? new TextEncoder().encode(part) : part;
}
export const addFile = (name: string, ...parts: (string | Uint8Array)[]) =>
  importFile(store, runner, id, name, body(...parts));
/** Runs all requested jobs, as the runner would. */
export async function work(): Promise<void> {
  for (let request = asked.shift(); request; request = asked.shift()) await perform(store, job(), request);
}
/** Runs the jobs that the present draft needs. */
export async function simulated(): Promise<void> {
  await perform(store, job(), { kind: 'simulate' });
}
export const audit = (): Audit => getAudit(store, id);

export const SCRIPT = `require ["fileinto"];
# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }
# Flood
if header :contains "subject" "flood at the weir" { keep; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; }
# Beams
if header :contains "subject" "beam" { fileinto "Beams"; }
`;
export const FROM = 'From x@y.example Thu Jan  1 10:00:00 2026';
export const SUBJECTS = ['weir', 'flood at the weir', 'oak beam', 'oak', 'nothing'];
export const MAIL = SUBJECTS.map(
  (subject, n) =>
    `${FROM}\nFrom: Ann <a@x.example>\nSubject: ${subject}\nDate: Thu, ${n + 1} Jan 2026 10:00:00 +0000\n\nwords ${n}\n\n`,
).join('');

/** An audit with four rules and five messages, simulated. */
export async function fill(): Promise<void> {
  await addFile('rules.sieve', SCRIPT);
  await addFile('INBOX.mbox', MAIL);
  await work();
  await simulated();
}
