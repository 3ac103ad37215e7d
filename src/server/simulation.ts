import { and, desc, eq, gte, inArray, lt, ne, type SQL } from 'drizzle-orm';
import { type AuditResult, auditChain } from '../core/audit/catalogue';
import type { Finding } from '../core/audit/finding';
import { AuditMemory } from '../core/audit/memory';
import { auditBudget } from '../core/audit/questions';
import { type Atom, atomKey, evaluateAtoms, readerOf } from '../core/flow/atoms';
import { Bitmap } from '../core/flow/bitmap';
import type { AtomBitmaps } from '../core/flow/conditions';
import { type Flow, runFlow } from '../core/flow/flow';
import { outcomePrefix } from '../core/flow/opaque';
import { atomsOf } from '../core/flow/program';
import type { Chain } from '../core/rules/rule';
import { type Audit, chainHash, getAudit, listAudits, Refusal } from './audits';
import { StoredColumns } from './columns';
import type { Store } from './database/open';
import { analyses, atoms } from './database/schema';
import type { Sharer } from './jobs/sharer';
import { Recent } from './recent';
import { Shares } from './shares';
import { storedMail } from './stored-mail';

/** The atoms of a chain that were never evaluated over all messages of the audit. */
export function missingAtoms(store: Store, audit: Audit, chain: Chain): Atom[] {
  const needed = new Map(atomsOf(chain).map((atom) => [atomKey(atom), atom]));
  for (const key of readyAtoms(store, audit, [...needed.keys()]).keys()) needed.delete(key);
  return [...needed.values()];
}

/** Messages of an audit never change once they are counted, so that a bitmap of so many messages holds for ever. */
const recentBitmaps = new Recent<Bitmap>(64 * 1024 * 1024, ({ words }) => words.length);
const bitmapName = ({ id, messageCount }: Audit, key: string): string => `${id} ${messageCount} ${key}`;

/** The bitmaps of those atoms that were evaluated over all messages. */
function readyAtoms(store: Store, audit: Audit, keys: readonly string[]): Map<string, Bitmap> {
  const ready = new Map<string, Bitmap>();
  const unknown: string[] = [];
  for (const key of keys) {
    const known = recentBitmaps.get(bitmapName(audit, key));
    if (known) ready.set(key, known);
    else unknown.push(key);
  }
  // SQLite takes a limited number of parameters in one statement.
  for (let at = 0; at < unknown.length; at += 500) {
    const rows = atomRows(store, audit, inArray(atoms.key, unknown.slice(at, at + 500)));
    for (const { key, bits } of rows) {
      const bitmap = bitmapOf(bits, audit.messageCount);
      recentBitmaps.set(bitmapName(audit, key), bitmap);
      ready.set(key, bitmap);
    }
  }
  return ready;
}

/**
 * Evaluates atoms over all stored mail and keeps their bitmaps. What only the interpreter can run is shared with another
 * thread, which begins with it while this one reads the columns.
 */
export async function evaluateAndKeep(
  store: Store,
  audit: Audit,
  wanted: readonly Atom[],
  progress: (done: number, total: number) => void,
  sharer: Sharer | null,
): Promise<void> {
  const { id: auditId, messageCount: count, now } = audit;
  const shares = new Shares(count);
  const opaque = wanted.filter((atom) => readerOf(atom) === 'interpreter');
  const shared =
    sharer && opaque.length > 0 && count >= WORTH_SHARING
      ? sharer.share({ auditId, count, now, atoms: opaque, next: shares.next })
      : null;
  // What fails is told when it is waited for.
  shared?.catch(() => {});
  const bitmaps = evaluateAtoms(wanted, new StoredColumns(store, auditId, count, shares), progress, now);
  for (const [key, bitmap] of (await shared) ?? []) bitmaps.set(key, bitmaps.get(key)?.or(bitmap) ?? bitmap);
  store.transaction((tx) => {
    for (const [key, { words }] of bitmaps) {
      const bits = Buffer.from(words.buffer, words.byteOffset, words.byteLength);
      const row = { auditId: audit.id, key, count: audit.messageCount, bits };
      tx.insert(atoms)
        .values(row)
        .onConflictDoUpdate({ target: [atoms.auditId, atoms.key], set: { count: row.count, bits } })
        .run();
    }
  });
}

/** Fewer messages are done before another thread has begun. */
const WORTH_SHARING = 2000;

/** The bitmaps of all atoms of a chain, or null while some were never evaluated. */
export function maybeAtomBitmaps(store: Store, audit: Audit, chain: Chain): AtomBitmaps | null {
  const keys = [...new Set(atomsOf(chain).map(atomKey))];
  const ready = readyAtoms(store, audit, keys);
  if (ready.size < keys.length) return null;
  const scripts = atomsOf(chain).filter(({ test }) => test === 'script');
  for (const { key, bits } of scripts.flatMap((atom) => outcomeRows(store, audit, atomKey(atom)))) {
    ready.set(key, bitmapOf(bits, audit.messageCount));
  }
  return ready;
}

/** The bitmaps of all outcomes of one piece of script. */
function outcomeRows(store: Store, audit: Audit, scriptKey: string) {
  return atomRows(store, audit, and(gte(atoms.key, outcomePrefix(scriptKey)), lt(atoms.key, `${scriptKey}\u0002`)));
}

/** What is kept of atoms that were evaluated over all messages. */
function atomRows(store: Store, audit: Audit, keys: SQL | undefined) {
  return store
    .select()
    .from(atoms)
    .where(and(eq(atoms.auditId, audit.id), eq(atoms.count, audit.messageCount), keys))
    .all();
}

function bitmapOf(bits: Buffer, count: number): Bitmap {
  const copy = new Uint8Array(bits);
  return new Bitmap(count, new Uint32Array(copy.buffer, 0, copy.byteLength / 4));
}

/** How the stored mail runs through a chain, or null while that is not known. */
export function maybeFlow(store: Store, audit: Audit, chain: Chain): Flow | null {
  const key = `${audit.id} ${audit.messageCount} ${chainHash(chain)}`;
  const known = recentFlows.get(key);
  if (known) return known;
  const bitmaps = maybeAtomBitmaps(store, audit, chain);
  if (!bitmaps) return null;
  const flow = runFlow(chain, bitmaps, audit.messageCount);
  recentFlows.set(key, flow);
  return flow;
}

/** The texts of so many messages are searched in a fraction of a second. */
const FEW_TEXTS = 20_000;

/**
 * The same, where what is missing is evaluated so fast that it need not be kept nor leave this thread: tests of header
 * fields, and of the texts of not too many messages. A rule is looked at while it is typed. Null for anything else.
 */
export function flowAtOnce(store: Store, audit: Audit, chain: Chain): Flow | null {
  const missing = missingAtoms(store, audit, chain);
  const isFast = (atom: Atom) => {
    const reader = readerOf(atom);
    return reader === 'columns' || (reader !== 'interpreter' && audit.messageCount <= FEW_TEXTS);
  };
  if (!missing.every(isFast)) return null;
  if (missing.length > 0) {
    const columns = new StoredColumns(store, audit.id, audit.messageCount);
    for (const [key, bitmap] of evaluateAtoms(missing, columns, () => {}, audit.now)) {
      recentBitmaps.set(bitmapName(audit, key), bitmap);
    }
  }
  return maybeFlow(store, audit, chain);
}

/** How the stored mail runs through the draft; throws a refusal while that is not known. */
export function getFlow(store: Store, audit: Audit): Flow {
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) throw new Refusal('The chain is still being simulated.', 409);
  return flow;
}

/** Views ask for the same few chains again and again: the draft, the baseline, a preview. */
const recentFlows = new Recent<Flow>(12, () => 1);

/** Findings kept by an older edition of the audit are not shown: raise this whenever what is stated changes. */
const FINDINGS_EDITION = 6;
/** Whose mail it is matters for some kinds. */
const findingsKey = ({ ownAddresses }: Audit, chain: Chain): string =>
  `${FINDINGS_EDITION}:${chainHash(chain)}:${ownAddresses.join(' ')}`;

/** What reasoning has found is used again when a chain is audited after an edit. */
const memories = new Recent<AuditMemory>(4, () => 1);

function memoryOf({ id }: Audit): AuditMemory {
  const kept = memories.get(id) ?? new AuditMemory();
  memories.set(id, kept);
  return kept;
}

/** Runs the audit on a chain whose atoms are all there, and keeps the findings. */
export function auditAndKeep(
  store: Store,
  audit: Audit,
  chain: Chain,
  progress: (done: number, total: number) => void,
): AuditResult {
  const bitmaps = maybeAtomBitmaps(store, audit, chain);
  const flow = maybeFlow(store, audit, chain);
  if (!bitmaps || !flow) throw new Error('the chain was not simulated before it was audited');
  const input = { chain, flow, atoms: bitmaps, mail: storedMail(store, audit) };
  // What only might overlap is looked at as a map.
  const budget = { ...auditBudget(chain.entries.length), overlapsByThemselves: false };
  const result = auditChain(input, { memory: memoryOf(audit), budget, now: audit.now, progress });
  const row = {
    auditId: audit.id,
    chainHash: findingsKey(audit, chain),
    count: audit.messageCount,
    findings: JSON.stringify(result),
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

/** The findings of so many chains are kept beside those of the draft; each edit that is looked at is a chain of its own. */
const KEPT_ANALYSES = 16;

function forgetOld(store: Store, audit: Audit): void {
  const { id, draft } = audit;
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
        ne(analyses.chainHash, findingsKey(audit, draft)),
      ),
    )
    .run();
}

/** Reading many findings from their text takes longer than showing them. */
const recentResults = new Recent<AuditResult>(4, () => 1);

/** Audits with rules whose draft was not audited over all messages, or by an older edition only. */
export function unaudited(store: Store): string[] {
  return listAudits(store).flatMap(({ id }) => {
    const audit = getAudit(store, id);
    if (audit.draft.entries.length === 0) return [];
    const row = store
      .select({ count: analyses.count })
      .from(analyses)
      .where(and(eq(analyses.auditId, id), eq(analyses.chainHash, findingsKey(audit, audit.draft))))
      .get();
    return row?.count === audit.messageCount ? [] : [id];
  });
}

/** The findings on a chain, or null while it was not audited over all messages. */
export function maybeResult(store: Store, audit: Audit, chain: Chain): AuditResult | null {
  const name = `${audit.id} ${audit.messageCount} ${findingsKey(audit, chain)}`;
  const known = recentResults.get(name);
  if (known) return known;
  const row = store
    .select()
    .from(analyses)
    .where(and(eq(analyses.auditId, audit.id), eq(analyses.chainHash, findingsKey(audit, chain))))
    .get();
  if (!row || row.count !== audit.messageCount) return null;
  const result = JSON.parse(row.findings) as AuditResult;
  recentResults.set(name, result);
  return result;
}

/** The same without how much was asked. */
export const maybeFindings = (store: Store, audit: Audit, chain: Chain): readonly Finding[] | null =>
  maybeResult(store, audit, chain)?.findings ?? null;
