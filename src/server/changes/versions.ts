import { and, desc, eq } from 'drizzle-orm';
import { applyEdits, type Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import { isSame } from '../../core/rules/same';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { refuseOverweight } from '../audits/size-limit';
import { inTransaction, type Store } from '../database/open';
import { versions } from '../database/schema';

/** A chain saved under a name. */
export interface Version {
  readonly id: number;
  readonly name: string;
  /** Milliseconds since 1970. */
  readonly createdAt: number;
  readonly rules: number;
}

/** A chain of an audit: the imported one, the draft, or a saved version by its number. */
export type ChainRef = 'baseline' | 'draft' | number;

const MOST = 200;

/** Newest first. */
export function listVersions(store: Store, auditId: string): Version[] {
  return store
    .select()
    .from(versions)
    .where(eq(versions.auditId, auditId))
    .orderBy(desc(versions.id))
    .all()
    .map(({ id, name, createdAt, chain }) => {
      return { id, name, createdAt, rules: chain.entries.length };
    });
}

/** Saves the draft under a name. */
export function keepVersion(store: Store, auditId: string, name: string): number {
  const audit = getAudit(store, auditId);
  if (listVersions(store, auditId).length >= MOST) {
    throw new Refusal(`An audit holds at most ${MOST} versions. Delete one first.`, 422);
  }
  const row = { auditId, name, chain: audit.draft, createdAt: Date.now() };
  return inTransaction(store, (tx) => {
    const { lastInsertRowid } = tx.insert(versions).values(row).run();
    refuseOverweight(tx, auditId);
    return Number(lastInsertRowid);
  });
}

export function dropVersion(store: Store, auditId: string, id: number): void {
  const { changes } = store
    .delete(versions)
    .where(and(eq(versions.auditId, auditId), eq(versions.id, id)))
    .run();
  if (changes === 0) throw new Refusal('There is no such version.', 404);
}

/** Throws a refusal if there is no such chain. */
export function chainAt(store: Store, audit: Audit, ref: ChainRef): Chain {
  if (ref === 'baseline') return audit.baseline;
  if (ref === 'draft') return audit.draft;
  return versionRow(store, audit.id, ref).chain;
}

/** The name of a chain; throws a refusal if there is none. */
export function chainName(store: Store, auditId: string, ref: ChainRef): string {
  if (ref === 'baseline') return 'as imported';
  if (ref === 'draft') return 'the draft';
  return `“${versionRow(store, auditId, ref).name}”`;
}

function versionRow(store: Store, auditId: string, id: number) {
  const row = store
    .select()
    .from(versions)
    .where(and(eq(versions.auditId, auditId), eq(versions.id, id)))
    .get();
  if (!row) throw new Refusal('There is no such version.', 404);
  return row;
}

/** The edits that turn the draft into another chain; none if they are identical. */
export function editsTo(audit: Audit, wanted: Chain): Edit[] {
  const edits: Edit[] = [];
  let current = audit.draft;
  const make = (edit: Edit) => {
    const applied = applyEdits(current, [edit]);
    if (!applied.ok)
      throw new Refusal(`The draft cannot be restored to this version: ${applied.reason}. Nothing was changed.`, 409);
    edits.push(edit);
    current = applied.chain;
  };
  for (const list of wanted.lists ?? []) {
    const from = current.lists?.find(({ id }) => id === list.id) ?? null;
    if (!isSame(from, list)) make({ kind: 'list', id: list.id, from, to: list });
  }
  const closing = { before: current.closing, after: wanted.closing };
  if (!isSame(current.entries, wanted.entries) || closing.before !== closing.after) {
    make({ kind: 'rewrite', from: 0, before: current.entries, after: wanted.entries, closing });
  }
  const [from, to] = [current.profile ?? null, wanted.profile ?? null];
  if (!isSame(from, to)) make({ kind: 'profile', from, to });
  for (const list of current.lists ?? []) {
    if (!wanted.lists?.some(({ id }) => id === list.id)) make({ kind: 'list', id: list.id, from: list, to: null });
  }
  return edits;
}
