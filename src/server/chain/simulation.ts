import { and, eq, gte, inArray, lt, type SQL } from 'drizzle-orm';
import { type Atom, atomKey, evaluateAtoms, readerOf } from '../../core/flow/atoms';
import { Bitmap } from '../../core/flow/bitmap';
import { type AtomBitmaps, amongTraffic } from '../../core/flow/conditions';
import { type Flow, runFlow } from '../../core/flow/flow';
import { outcomePrefix } from '../../core/flow/opaque';
import { atomsOf } from '../../core/flow/program';
import type { Chain } from '../../core/rules/rule';
import { type Audit, Refusal } from '../audits/audits';
import { columnsKey, flowKey, surroundingsKey } from '../cache/keys';
import { Region } from '../cache/region';
import { inTransaction, type Store } from '../database/open';
import { atoms } from '../database/schema';
import type { Sharer } from '../jobs/sharer';
import { StoredColumns } from '../mail/columns';
import { maybeTraffic } from '../mail/traffic';
import { watched } from '../threads/thread';
import { Shares } from './shares';

/** The atoms of a chain that were not evaluated over all messages yet. */
export function missingAtoms(store: Store, audit: Audit, chain: Chain): Atom[] {
  const needed = new Map(atomsOf(chain).map((atom) => [atomKey(atom), atom]));
  for (const key of readyAtoms(store, audit, [...needed.keys()]).keys()) needed.delete(key);
  return [...needed.values()];
}

/** Messages never change once counted, so a bitmap over a given number of messages stays valid. */
const recentBitmaps = new Region<Bitmap>({
  name: 'bitmaps of tests',
  most: 256 * 1024 * 1024,
  weigh: ({ octets }) => octets,
});
const bitmapName = (audit: Audit, key: string): string => `${columnsKey(audit)} ${keptKey(audit, key)}`;

/** Tests of the envelope recipient, and whatever the interpreter runs and may read the clock. */
const SURROUNDED = /^\["(envelope".*"to"|(sieve|script)".*(envelope|currentdate|vacation|duplicate|include))/s;

/** The cache key of a bitmap. If it depends on more than the messages, the key names the rest before the outcome. */
function keptKey(audit: Audit, key: string): string {
  const end = key.indexOf(outcomePrefix(''));
  const test = end < 0 ? key : key.slice(0, end);
  return SURROUNDED.test(test) ? `${test}\u0003${surroundingsKey(audit)}${key.slice(test.length)}` : key;
}

/** The key of a cached atom; being JSON, it contains no such marks itself. */
function keyKept(kept: string): string {
  const start = kept.indexOf('\u0003');
  if (start < 0) return kept;
  const end = kept.indexOf(outcomePrefix(''), start);
  return kept.slice(0, start) + (end < 0 ? '' : kept.slice(end));
}

/** The bitmaps of those atoms that were evaluated over all messages. */
function readyAtoms(store: Store, audit: Audit, keys: readonly string[]): Map<string, Bitmap> {
  const ready = new Map<string, Bitmap>();
  const unknown: string[] = [];
  for (const key of keys) {
    const known = recentBitmaps.get(bitmapName(audit, key));
    if (known) ready.set(key, known);
    else unknown.push(key);
  }
  // SQLite limits the number of parameters in a statement.
  for (let at = 0; at < unknown.length; at += 500) {
    const rows = atomRows(
      store,
      audit,
      inArray(
        atoms.key,
        unknown.slice(at, at + 500).map((key) => keptKey(audit, key)),
      ),
    );
    for (const { key: kept, bits } of rows) {
      const key = keyKept(kept);
      const bitmap = bitmapOf(bits, audit.messageCount);
      recentBitmaps.set(bitmapName(audit, key), bitmap);
      ready.set(key, bitmap);
    }
  }
  return ready;
}

/**
 * Evaluates atoms over all stored mail and caches their bitmaps. A second thread takes part in searching texts and
 * in what only the interpreter can run, while this one reads the columns.
 */
export async function evaluateAndKeep(
  store: Store,
  audit: Audit,
  wanted: readonly Atom[],
  progress: (done: number, total: number) => void,
  sharer: Sharer | null,
): Promise<void> {
  const { id: auditId, messageCount: count, clock, recipient } = audit;
  const shares = new Shares(count);
  const atLeast = { interpreter: WORTH_SHARING, texts: WORTH_SHARING_TEXTS, columns: Number.POSITIVE_INFINITY };
  const divided = wanted.filter((atom) => count >= atLeast[partOf(atom)]);
  const shared =
    sharer && divided.length > 0
      ? sharer.share({ auditId, count, clock, recipient, atoms: divided, next: shares.next })
      : null;
  // Its error is thrown when it is awaited.
  shared?.catch(() => {});
  const columns = new StoredColumns(store, auditId, count, recipient, shares);
  const bitmaps = evaluateAtoms(wanted, columns, progress, clock);
  for (const [key, bitmap] of shared ? await watched(shared, () => progress(1, 1)) : [])
    bitmaps.set(key, bitmaps.get(key)?.or(bitmap) ?? bitmap);
  inTransaction(store, (tx) => {
    for (const [key, { words }] of bitmaps) {
      progress(1, 1);
      const bits = Buffer.from(words.buffer, words.byteOffset, words.byteLength);
      const row = { auditId: audit.id, key: keptKey(audit, key), count: audit.messageCount, bits };
      tx.insert(atoms)
        .values(row)
        .onConflictDoUpdate({ target: [atoms.auditId, atoms.key], set: { count: row.count, bits } })
        .run();
    }
  });
}

/** Fewer messages are done before a second thread has started; texts are searched much faster than scripts are run. */
const WORTH_SHARING = 2000;
const WORTH_SHARING_TEXTS = 50_000;

function partOf(atom: Atom): 'columns' | 'interpreter' | 'texts' {
  const reader = readerOf(atom);
  return typeof reader === 'object' ? 'texts' : reader;
}

/** Evaluates tests that are tried and not kept in the database. `checkpoint` may throw to cancel. */
export function evaluating(
  store: Store,
  audit: Audit,
  checkpoint: () => void,
): (wanted: readonly Atom[]) => AtomBitmaps {
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  return (wanted) => {
    const ready = readyAtoms(store, audit, wanted.map(atomKey));
    const missing = wanted.filter((atom) => !ready.has(atomKey(atom)));
    if (missing.length > 0) {
      for (const [key, bitmap] of evaluateAtoms(missing, columns, checkpoint, audit.clock)) ready.set(key, bitmap);
    }
    return amongTraffic(ready, maybeTraffic(store, audit));
  };
}

/** The bitmaps of all atoms of a chain, or null while some are missing. */
export function maybeAtomBitmaps(store: Store, audit: Audit, chain: Chain): AtomBitmaps | null {
  const keys = [...new Set(atomsOf(chain).map(atomKey))];
  const ready = readyAtoms(store, audit, keys);
  if (ready.size < keys.length) return null;
  const scripts = atomsOf(chain).filter(({ test }) => test === 'script');
  for (const { key, bits } of scripts.flatMap((atom) => outcomeRows(store, audit, atomKey(atom)))) {
    ready.set(keyKept(key), bitmapOf(bits, audit.messageCount));
  }
  return amongTraffic(ready, maybeTraffic(store, audit));
}

/** The bitmaps of all outcomes of a script block. */
function outcomeRows(store: Store, audit: Audit, scriptKey: string) {
  const kept = keptKey(audit, scriptKey);
  return atomRows(store, audit, and(gte(atoms.key, outcomePrefix(kept)), lt(atoms.key, `${kept}\u0002`)));
}

/** Cached bitmaps of atoms. */
function atomRows(store: Store, audit: Audit, keys: SQL | undefined) {
  return store
    .select()
    .from(atoms)
    .where(and(eq(atoms.auditId, audit.id), eq(atoms.count, audit.messageCount), keys))
    .all();
}

function bitmapOf(bits: Buffer, count: number): Bitmap {
  const copy = new Uint8Array(bits);
  return new Bitmap(count, new Uint32Array(copy.buffer, 0, copy.byteLength / 4)).compact();
}

/** The flow of a chain, or null while its atoms are missing. `checkpoint` may throw to cancel. */
export function maybeFlow(store: Store, audit: Audit, chain: Chain, checkpoint?: () => void): Flow | null {
  const key = flowKey(audit, chain);
  const known = recentFlows.get(key);
  if (known) return known;
  const bitmaps = maybeAtomBitmaps(store, audit, chain);
  if (!bitmaps) return null;
  const flow = runFlow(chain, bitmaps, audit.messageCount, checkpoint);
  recentFlows.set(key, flow);
  return flow;
}

/** The texts of this many messages are searched in a fraction of a second. */
const FEW_TEXTS = 20_000;

/**
 * The flow of a chain while a rule is typed: missing atoms are evaluated here if that is fast (tests of header fields,
 * and of the texts of not too many messages) and not cached. Null for anything slower.
 */
export function flowAtOnce(store: Store, audit: Audit, chain: Chain): Flow | null {
  const missing = missingAtoms(store, audit, chain);
  const isFast = (atom: Atom) => {
    const reader = readerOf(atom);
    return reader === 'columns' || (reader !== 'interpreter' && audit.messageCount <= FEW_TEXTS);
  };
  if (!missing.every(isFast) || missing.reduce((sum, atom) => sum + keyLength(atom), 0) > FEW_LETTERS) return null;
  if (missing.length > 0) {
    const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
    for (const [key, bitmap] of evaluateAtoms(missing, columns, () => {}, audit.clock)) {
      recentBitmaps.set(bitmapName(audit, key), bitmap.compact());
    }
  }
  return maybeFlow(store, audit, chain);
}

/** Keys with this many characters in all are prepared for searching in a fraction of a second. */
const FEW_LETTERS = 200_000;

const keyLength = (atom: Atom): number =>
  'keys' in atom ? atom.keys.reduce((sum, key) => sum + key.length, 0) : atomKey(atom).length;

/** The flow of the draft; throws a refusal while it is unknown. */
export function getFlow(store: Store, audit: Audit): Flow {
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) throw new Refusal('The chain is being simulated. Try again in a moment.', 409);
  return flow;
}

/** Views use the same few chains repeatedly: the draft, the baseline, a preview. */
const recentFlows = new Region<Flow>({
  name: 'flows',
  most: 768 * 1024 * 1024,
  // What was reached is all messages but a few, at most.
  weigh: ({ entries, count }) =>
    entries.reduce((sum, { fired, held }) => sum + fired.octets + held.octets + count / 8, 0),
  entries: 12,
});
