import { and, desc, eq, isNull } from 'drizzle-orm';
import { isConfirmed } from '../../core/audit/grouping';
import type { Audit } from '../audits/audits';
import { chainHash } from '../cache/keys';
import { looks } from '../database/mailbox-schema';
import type { Store } from '../database/open';
import { maybeFindings } from '../findings/results';
import type { ScriptInUse } from './scripts';

/** What was found when mail was fetched. */
export type Look = Omit<typeof looks.$inferSelect, 'auditId'>;

/** Records that mail is being fetched, with the confirmed findings before: others may be stated or not at each audit. */
export function beginLook(store: Store, audit: Audit, sourceId: string, script: ScriptInUse | null): void {
  const findings = maybeFindings(store, audit, audit.draft)
    ?.filter(isConfirmed)
    .map(({ key }) => key);
  const before = findings ? { chain: chainHash(audit.draft), findings } : null;
  store.insert(looks).values({ auditId: audit.id, sourceId, startedAt: Date.now(), script, before }).run();
  forgetOld(store, audit.id);
}

/** What was found; a look ends once. */
export function endLook(
  store: Store,
  auditId: string,
  sourceId: string,
  found: Partial<Pick<Look, 'sourceId' | 'added' | 'flagged' | 'gone' | 'trouble'>>,
): void {
  store
    .update(looks)
    .set({ ...found, finishedAt: Date.now() })
    .where(and(eq(looks.auditId, auditId), eq(looks.sourceId, sourceId), isNull(looks.finishedAt)))
    .run();
}

/** Newest first. */
export const listLooks = (store: Store, auditId: string): Look[] =>
  store
    .select()
    .from(looks)
    .where(eq(looks.auditId, auditId))
    .orderBy(desc(looks.id))
    .all()
    .map(({ auditId: _, ...look }) => look);

/** Looks remembered for each audit. */
const KEPT = 200;

function forgetOld(store: Store, auditId: string): void {
  for (const { id } of listLooks(store, auditId).slice(KEPT)) store.delete(looks).where(eq(looks.id, id)).run();
}
