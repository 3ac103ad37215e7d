import { and, desc, eq, lt, notInArray } from 'drizzle-orm';
import { type AuditInput, type AuditResult, auditChain } from '../../core/audit/catalogue';
import type { Finding, Repair, Statement } from '../../core/audit/finding';
import { AuditMemory } from '../../core/audit/memory';
import { auditBudget } from '../../core/audit/questions';
import { READER } from '../../core/mail/reading';
import type { Chain } from '../../core/rules/rule';
import { type Audit, getAudit, listAudits } from '../audits/audits';
import { findingsKey } from '../cache/keys';
import { Region } from '../cache/region';
import { maybeAtomBitmaps, maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { analyses } from '../database/schema';
import { storedKeyUses } from '../mail/key-uses';
import { probesFor } from '../mail/probes';
import { valuedMail } from '../mail/stored-mail';
import { type KeptResult, packResult, readAllRepairs, readRepairs, readResult } from './packed';

/** Approximate limit on the octets of one audit's memory; see `MOST_MEMBERS`. */
const MEMORY = 128 * 1024 * 1024;

/** The memory of the reasoning is reused when a chain is audited after an edit. */
const memories = new Region<AuditMemory>({
  name: 'what reasoning has found',
  most: 4 * MEMORY,
  weigh: () => MEMORY,
});

export function memoryOf({ id }: Audit): AuditMemory {
  const kept = memories.get(id) ?? new AuditMemory();
  memories.set(id, kept);
  return kept;
}

type Progress = (done: number, total: number) => void;

/** Audits a chain whose atoms are all evaluated; with `about`, only which of these findings are still true is told. */
export function auditOnce(
  store: Store,
  audit: Audit,
  chain: Chain,
  { progress, about }: { readonly progress: Progress; readonly about?: readonly Finding[] },
): AuditResult {
  const checkpoint = () => progress(0, 1);
  const bitmaps = maybeAtomBitmaps(store, audit, chain);
  const flow = maybeFlow(store, audit, chain, checkpoint);
  if (!bitmaps || !flow) throw new Error('the chain was not simulated before it was audited');
  const valued = valuedMail(store, audit, checkpoint);
  const usesOf: AuditInput['usesOf'] = (wanted) => storedKeyUses(store, audit, [...wanted.keys()], checkpoint);
  const input = { chain, flow, atoms: bitmaps, mail: valued.mail, valued, usesOf };
  // Possible overlaps are shown on the map instead.
  const budget = { ...auditBudget(chain.entries.length), overlapsByThemselves: false };
  const [memory, probes] = [memoryOf(audit), probesFor(store, audit)];
  return auditChain(input, { memory, budget, clock: audit.clock, probes, progress, ...(about && { about }) });
}

/** The same, and stores all findings. */
export function auditAndKeep(store: Store, audit: Audit, chain: Chain, progress: Progress): AuditResult {
  const result = auditOnce(store, audit, chain, { progress });
  const row = {
    auditId: audit.id,
    chainHash: findingsKey(audit, chain),
    count: audit.messageCount,
    ...packResult(result, () => progress(1, 1)),
    createdAt: Date.now(),
  };
  store
    .insert(analyses)
    .values(row)
    .onConflictDoUpdate({ target: [analyses.auditId, analyses.chainHash], set: row })
    .run();
  forgetOld(store, audit);
  return result;
}

/**
 * Findings of this many chains are stored besides those of the draft and the imported chain; each previewed edit and
 * tried repair is a chain of its own.
 */
const KEPT_ANALYSES = 24;

function forgetOld(store: Store, audit: Audit): void {
  const { id, draft, baseline } = audit;
  const [oldest] = store
    .select({ createdAt: analyses.createdAt })
    .from(analyses)
    .where(eq(analyses.auditId, id))
    .orderBy(desc(analyses.createdAt))
    .limit(1)
    .offset(KEPT_ANALYSES - 1)
    .all();
  if (!oldest) return;
  store
    .delete(analyses)
    .where(
      and(
        eq(analyses.auditId, id),
        lt(analyses.createdAt, oldest.createdAt),
        notInArray(analyses.chainHash, [findingsKey(audit, draft), findingsKey(audit, baseline)]),
      ),
    )
    .run();
}

/** Decoding many findings takes longer than showing them. */
const recentResults = new Region<KeptResult>({
  name: 'findings',
  most: 512 * 1024 * 1024,
  weigh: ({ findings }) => 2000 * findings.length,
  entries: 4,
});

/** Audits whose draft was not audited over all messages yet. */
export const unaudited = (store: Store): string[] =>
  listAudits(store).flatMap(({ id }) => (isAudited(store, id) ? [] : [id]));

/** Whether the draft was audited over all messages; there is nothing to audit without rules. */
export function isAudited(store: Store, auditId: string): boolean {
  const audit = getAudit(store, auditId);
  if (audit.draft.entries.length === 0) return true;
  const row = store
    .select({ count: analyses.count })
    .from(analyses)
    .where(and(eq(analyses.auditId, auditId), eq(analyses.chainHash, findingsKey(audit, audit.draft))))
    .get();
  return row?.count === audit.messageCount && audit.reader >= READER;
}

/** The findings of a chain, or null if it was not audited over all messages. */
export function maybeResult(store: Store, audit: Audit, chain: Chain): KeptResult | null {
  const key = findingsKey(audit, chain);
  const wanted = and(eq(analyses.auditId, audit.id), eq(analyses.chainHash, key));
  // Another thread may have evicted it, whatever is cached here.
  const kept = store.select({ count: analyses.count }).from(analyses).where(wanted).get();
  if (kept?.count !== audit.messageCount) return null;
  const name = `${audit.id} ${audit.messageCount} ${key}`;
  const known = recentResults.get(name);
  if (known) return known;
  const row = store.select({ statements: analyses.statements }).from(analyses).where(wanted).get();
  if (!row) return null;
  const result = readResult(row.statements);
  recentResults.set(name, result);
  return result;
}

/** The key without the number of questions. */
export const maybeFindings = (store: Store, audit: Audit, chain: Chain): readonly Statement[] | null =>
  maybeResult(store, audit, chain)?.findings ?? null;

/** The findings of a chain with their repairs, or null if it was not audited over all messages. */
export function maybeFindingsWithRepairs(store: Store, audit: Audit, chain: Chain): Finding[] | null {
  const findings = maybeFindings(store, audit, chain);
  const row = findings && maybeRepairsRow(store, audit, chain);
  if (!row) return null;
  const repairs = readAllRepairs(row.repairs);
  return findings.map((finding, at) => ({ ...finding, repairs: repairs[at] ?? [] }));
}

/** The repairs of a finding; none if the chain was not audited. */
export function repairsOf(store: Store, audit: Audit, chain: Chain, key: string): readonly Repair[] {
  const place = maybeFindings(store, audit, chain)?.findIndex((finding) => finding.key === key) ?? -1;
  if (place < 0) return [];
  const row = maybeRepairsRow(store, audit, chain);
  return row ? readRepairs(row.repairs, place) : [];
}

const maybeRepairsRow = (store: Store, audit: Audit, chain: Chain) =>
  store
    .select({ repairs: analyses.repairs })
    .from(analyses)
    .where(and(eq(analyses.auditId, audit.id), eq(analyses.chainHash, findingsKey(audit, chain))))
    .get();
