import { and, asc, eq, isNotNull, lte, sql } from 'drizzle-orm';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { maybeWitness, type Witness } from '../../core/reason/witness';
import type { Chain } from '../../core/rules/rule';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { interpreter } from '../../core/sieve/interpret/interpret';
import { worldFor } from '../../core/sieve/interpret/world';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { refuseOverweight } from '../audits/size-limit';
import { fateLine, fateView } from '../chain/destinations';
import { inTransaction, type Store } from '../database/open';
import { probes } from '../database/schema';

/** A saved made-up message, with its fate under the chain and the expected one. */
export interface ProbeLine {
  readonly id: number;
  readonly name: string;
  /** Its present fate in one line. */
  readonly line: string;
  /** The expected line; null if nothing is expected. */
  readonly expected: string | null;
}

/** A probe is written by hand or copied from a stored message; this is enough for either. */
export const PROBE_LIMIT = 1024 * 1024;
const MOST_PROBES = 500;

export function listProbes(store: Store, auditId: string): ProbeLine[] {
  const audit = getAudit(store, auditId);
  const rows = store.select().from(probes).where(eq(probes.auditId, auditId)).orderBy(asc(probes.id)).all();
  if (rows.length === 0) return [];
  const lineOf = runner(audit, audit.draft);
  return rows.map(({ id, name, raw, expected }) => ({ id, name, line: lineOf(raw), expected }));
}

/** Each finding that a probe shows carries its text. */
const MOST_SHOWN = 16 * 1024;

/** The probes as example messages for an audit; those that are not UTF-8, or long, are left out. */
export function probesFor(store: Store, { id, recipient }: Audit): Witness[] {
  const isShort = lte(sql`length(${probes.raw})`, MOST_SHOWN);
  const rows = store
    .select({ raw: probes.raw })
    .from(probes)
    .where(and(eq(probes.auditId, id), isShort))
    .orderBy(asc(probes.id))
    .all();
  return rows.flatMap(({ raw }) => maybeWitness(raw, recipient) ?? []);
}

/** Octets of all probes together. */
export function octetsOfProbes(store: Store, auditId: string): number {
  const row = store
    .select({ octets: sql<number>`coalesce(sum(length(${probes.raw})), 0)` })
    .from(probes)
    .where(eq(probes.auditId, auditId))
    .get();
  return row?.octets ?? 0;
}

/** Names the probes that have their expected fate under a chain. */
export function probesMet(store: Store, audit: Audit): (chain: Chain) => ReadonlySet<number> {
  const rows = store
    .select()
    .from(probes)
    .where(and(eq(probes.auditId, audit.id), isNotNull(probes.expected)))
    .all();
  const known = new WeakMap<Chain, ReadonlySet<number>>();
  return (chain) => {
    const before = known.get(chain);
    if (before || rows.length === 0) return before ?? NONE;
    const lineOf = runner(audit, chain);
    const met = new Set(rows.flatMap(({ id, raw, expected }) => (lineOf(raw) === expected ? id : [])));
    known.set(chain, met);
    return met;
  };
}

const NONE: ReadonlySet<number> = new Set();

/** The line of the fate that a message which is not stored has under a chain, as probes expect it. */
export const probeLine = (audit: Audit, chain: Chain, text: string): string =>
  runner(audit, chain)(new TextEncoder().encode(text));

/** The fates of messages that are not stored, in one line each. */
function runner(audit: Audit, chain: Chain): (raw: Uint8Array) => string {
  const run = interpreter(sieveFromChain(chain).script);
  return (raw) => {
    const message = readMessage(raw);
    return fateLine(
      fateView(run(message, envelopeOf(message, audit.recipient), { world: worldFor(message, audit.clock) }).fate),
    );
  };
}

export function probeText(store: Store, auditId: string, id: number): Buffer {
  const row = store
    .select()
    .from(probes)
    .where(and(eq(probes.auditId, auditId), eq(probes.id, id)))
    .get();
  if (!row) throw new Refusal('There is no such probe.', 404);
  return row.raw;
}

/** Saves a probe; `expected` is the line of the expected fate, or null. */
export function keepProbe(store: Store, auditId: string, name: string, raw: Buffer, expected: string | null): number {
  getAudit(store, auditId);
  if (raw.length > PROBE_LIMIT) throw new Refusal('A probe can be at most 1 MB.', 413);
  const held = store.select({ id: probes.id }).from(probes).where(eq(probes.auditId, auditId)).all();
  if (held.length >= MOST_PROBES)
    throw new Refusal(`An audit holds at most ${MOST_PROBES} probes. Delete one first.`, 422);
  const row = { auditId, name, raw, expected, createdAt: Date.now() };
  return inTransaction(store, (tx) => {
    const { lastInsertRowid } = tx.insert(probes).values(row).run();
    refuseOverweight(tx, auditId);
    return Number(lastInsertRowid);
  });
}

export function dropProbe(store: Store, auditId: string, id: number): void {
  const { changes } = store
    .delete(probes)
    .where(and(eq(probes.auditId, auditId), eq(probes.id, id)))
    .run();
  if (changes === 0) throw new Refusal('There is no such probe.', 404);
}
