import { createHash } from 'node:crypto';
import { and, desc, eq } from 'drizzle-orm';
import { type Prepared, prepareScript } from '../../core/handover/prepare';
import { type Choices, DEFAULT_CHOICES } from '../../core/handover/rewrite';
import { EVERYTHING, NO_LIMITS, READY_TARGETS, type Target, type TargetId } from '../../core/handover/target';
import type { HandoverRecord } from '../../core/handover/verify';
import { type Audit, getAudit } from '../audits/audits';
import { isOverweight } from '../audits/size-limit';
import { chainHash } from '../cache/keys';
import { Region } from '../cache/region';
import { inTransaction, type Store } from '../database/open';
import { handed, handovers, verifications } from '../database/schema';
import { maybeAnnounced } from './announced';

/** The target of the script, and the user's decisions and acceptances for it. */
export interface HandoverSettings {
  readonly target: TargetId;
  /** The capabilities a server announced, for a target of the user's own. */
  readonly capabilities: readonly string[];
  readonly limits: Target['limits'];
  readonly choices: Choices;
  /** Accepted differences, by `costKey`. */
  readonly accepted: readonly string[];
}

const DEFAULTS: HandoverSettings = {
  target: 'common',
  capabilities: [],
  limits: NO_LIMITS,
  choices: DEFAULT_CHOICES,
  accepted: [],
};

/** Until the user chooses a target, it is what the last server of this audit announced, or else the common set. */
export function handoverSettings(store: Store, auditId: string): HandoverSettings {
  const chosen = chosenSettings(store, auditId);
  const server = chosen.target === undefined ? maybeAnnounced(store, auditId) : null;
  return {
    ...DEFAULTS,
    ...(server && { target: 'own', capabilities: server.capabilities }),
    ...chosen,
    limits: { ...NO_LIMITS, ...(server && { redirects: server.maxRedirects }), ...chosen.limits },
    choices: { ...DEFAULT_CHOICES, ...chosen.choices },
  };
}

const chosenSettings = (store: Store, auditId: string): Partial<HandoverSettings> =>
  store.select().from(handovers).where(eq(handovers.auditId, auditId)).get()?.settings ?? {};

/** Whether a target was chosen, or a server has announced what it supports: the common set is only an assumption. */
export const hasTarget = (store: Store, auditId: string): boolean =>
  chosenSettings(store, auditId).target !== undefined || maybeAnnounced(store, auditId) !== null;

/** Null while nothing was chosen and no server announced anything. */
export const maybeHandoverSettings = (store: Store, auditId: string): HandoverSettings | null =>
  Object.keys(chosenSettings(store, auditId)).length > 0 || maybeAnnounced(store, auditId)
    ? handoverSettings(store, auditId)
    : null;

/**
 * Fields that are absent stay as they are: what was never chosen keeps following the last server. The target `own` without
 * capabilities stands for what that server announced.
 */
export function keepHandoverSettings(store: Store, auditId: string, change: Partial<HandoverSettings>): void {
  getAudit(store, auditId);
  const chosen = { ...chosenSettings(store, auditId), ...change };
  const server = chosen.target === 'own' && !chosen.capabilities?.length ? maybeAnnounced(store, auditId) : null;
  const settings = { ...chosen, ...(server && { capabilities: server.capabilities }) };
  const row = { auditId, settings };
  store.insert(handovers).values(row).onConflictDoUpdate({ target: handovers.auditId, set: row }).run();
}

export function targetOf({ target, capabilities, limits }: HandoverSettings): Target {
  if (target === 'own') return { id: 'own', capabilities, limits };
  return { ...(READY_TARGETS.find(({ id }) => id === target) ?? EVERYTHING), limits };
}

/** The script of the draft as it will be exported. */
export function preparedScript(store: Store, audit: Audit): Prepared {
  const name = scriptName(store, audit);
  const settings = handoverSettings(store, audit.id);
  const prepared = recentScripts.get(name) ?? prepareScript(audit.draft, targetOf(settings), settings.choices);
  recentScripts.set(name, prepared);
  return prepared;
}

/** Cached, since writing thousands of rules as sentences takes a second and several pages need them. */
const recentScripts = new Region<Prepared>({
  name: 'scripts for a target',
  most: 256 * 1024 * 1024,
  weigh: ({ text }) => 10 * text.length,
  entries: 4,
});

/** The same for the same draft, target and decisions. */
function scriptName(store: Store, audit: Audit): string {
  const { target, capabilities, limits, choices } = handoverSettings(store, audit.id);
  return `${chainHash(audit.draft)} ${JSON.stringify([target, capabilities, limits, choices])}`;
}

/** The same for the same script, run on the same mail with the same clock: the key of its verification. */
export function handoverHash(store: Store, audit: Audit): string {
  return createHash('sha256')
    .update(`${scriptName(store, audit)}${audit.clock.fixed ?? ''}${audit.recipient ?? ''}${audit.edition}`)
    .digest('hex')
    .slice(0, 32);
}

export interface KeptRecord {
  readonly record: HandoverRecord;
  readonly at: number;
  readonly hash: string;
}

/** The verification record of this very script over all stored messages; null if it was not verified. */
export function maybeRecord(store: Store, audit: Audit, { text }: Pick<Prepared, 'text'>): KeptRecord | null {
  const row = store
    .select()
    .from(verifications)
    .where(and(eq(verifications.auditId, audit.id), eq(verifications.chainHash, handoverHash(store, audit))))
    .get();
  // Another script for the same rules needs its own verification.
  if (!row || row.count !== audit.messageCount || row.scriptHash !== scriptHash(text)) return null;
  return { record: row.record, at: row.createdAt, hash: row.scriptHash };
}

export const scriptHash = (text: string): string => createHash('sha256').update(text).digest('hex');

export interface HandedScript {
  readonly id: number;
  readonly place: string;
  readonly hash: string;
  readonly createdAt: number;
}

/** Newest first. */
export function listHanded(store: Store, auditId: string): HandedScript[] {
  return store
    .select({ id: handed.id, place: handed.place, hash: handed.scriptHash, createdAt: handed.createdAt })
    .from(handed)
    .where(eq(handed.auditId, auditId))
    .orderBy(desc(handed.id))
    .all();
}

/** An exported script; null if there is none. */
export function maybeHanded(store: Store, auditId: string, id: number): string | null {
  const row = store
    .select({ script: handed.script })
    .from(handed)
    .where(and(eq(handed.auditId, auditId), eq(handed.id, id)))
    .get();
  return row?.script ?? null;
}

/**
 * Stores an exported script. The same script for the same destination is stored once; the oldest are deleted beyond a
 * limit.
 */
export function keepHanded(store: Store, auditId: string, place: string, script: string): void {
  const hash = scriptHash(script);
  const [latest] = listHanded(store, auditId).filter((one) => one.place === place);
  if (latest?.hash === hash) return;
  inTransaction(store, (tx) => {
    const { lastInsertRowid } = tx
      .insert(handed)
      .values({ auditId, place, script, scriptHash: hash, createdAt: Date.now() })
      .run();
    for (const { id } of listHanded(tx, auditId).toReversed()) {
      if (!isOverweight(tx, auditId)) return;
      tx.delete(handed).where(eq(handed.id, id)).run();
      // The script was exported anyway.
      if (id === lastInsertRowid) return;
    }
  });
}
