import { createHash, randomUUID } from 'node:crypto';
import { and, asc, desc, eq } from 'drizzle-orm';
import { applyEdits, type Edit } from '../core/rules/edit';
import type { Chain } from '../core/rules/rule';
import type { Store } from './database/open';
import { audits, changes } from './database/schema';

/** An audit as it stands: the chain that was brought in, and the draft with all changes that are not undone. */
export interface Audit {
  readonly id: string;
  readonly name: string;
  readonly ownAddresses: readonly string[];
  readonly messageCount: number;
  /** The clock of the audit: what tests of the current date see, the same whenever it is looked at. */
  readonly now: number;
  readonly baseline: Chain;
  readonly draft: Chain;
}

/** Something the user can understand and act on; route handlers show its message. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: 400 | 404 | 409 | 413 | 422 = 400,
  ) {
    super(message);
  }
}

const EMPTY: Chain = { entries: [], closing: '' };

export function createAudit(store: Store, name: string, id: string = randomUUID()): string {
  store
    .insert(audits)
    .values({ id, name, createdAt: Date.now(), chain: JSON.stringify(EMPTY), ownAddresses: '[]', messageCount: 0 })
    .run();
  return id;
}

export function listAudits(store: Store) {
  return store.select().from(audits).orderBy(desc(audits.createdAt)).all();
}

export function deleteAudit(store: Store, id: string): void {
  store.delete(audits).where(eq(audits.id, id)).run();
}

export function maybeAudit(store: Store, id: string): Audit | null {
  const row = store.select().from(audits).where(eq(audits.id, id)).get();
  if (!row) return null;
  const baseline = JSON.parse(row.chain) as Chain;
  const applied = applyEdits(baseline, editsOf(store, id));
  if (!applied.ok) throw new Error(`the changes of audit ${id} no longer apply: ${applied.reason}`);
  return {
    id,
    name: row.name,
    ownAddresses: JSON.parse(row.ownAddresses) as string[],
    messageCount: row.messageCount,
    now: row.createdAt,
    baseline,
    draft: applied.chain,
  };
}

/** Throws a refusal where there is no such audit. */
export function getAudit(store: Store, id: string): Audit {
  const audit = maybeAudit(store, id);
  if (!audit) throw new Refusal('There is no such audit.', 404);
  return audit;
}

function editsOf(store: Store, auditId: string): Edit[] {
  return store
    .select({ edits: changes.edits })
    .from(changes)
    .where(and(eq(changes.auditId, auditId), eq(changes.undone, false)))
    .orderBy(asc(changes.id))
    .all()
    .flatMap((row) => JSON.parse(row.edits) as Edit[]);
}

/** The same for chains that mean the same to the engines and read the same. */
export function chainHash(chain: Chain): string {
  return createHash('sha256').update(JSON.stringify(chain)).digest('hex').slice(0, 32);
}
