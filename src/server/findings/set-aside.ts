import { createHash } from 'node:crypto';
import { and, asc, eq } from 'drizzle-orm';
import type { Statement } from '../../core/audit/finding';
import { withoutRepeated } from '../../core/audit/grouping';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { setAsideFindings } from '../database/schema';
import { maybeStatedFindings } from './for-target';

/** Why and when (in milliseconds since 1970) a finding was set aside. */
export interface Aside {
  readonly reason: string;
  readonly createdAt: number;
}

/** Sets a finding on the draft aside until its facts change; throws a refusal if there is no such finding. */
export function setAside(store: Store, auditId: string, key: string, reason: string): void {
  const audit = getAudit(store, auditId);
  const finding = maybeStatedFindings(store, audit)?.find((candidate) => candidate.key === key);
  if (!finding) throw new Refusal('This finding is resolved.', 404);
  const row = { auditId, key, facts: factsOf(audit, finding), reason, createdAt: Date.now() };
  store
    .insert(setAsideFindings)
    .values(row)
    .onConflictDoUpdate({ target: [setAsideFindings.auditId, setAsideFindings.key], set: row })
    .run();
}

/** Reopens a finding that was set aside. */
export function reopen(store: Store, auditId: string, key: string): void {
  getAudit(store, auditId);
  store
    .delete(setAsideFindings)
    .where(and(eq(setAsideFindings.auditId, auditId), eq(setAsideFindings.key, key)))
    .run();
}

/** Keys of the findings set aside, whether or not their facts are unchanged; sorted. */
export const keysSetAside = (store: Store, auditId: string): string[] =>
  store
    .select({ key: setAsideFindings.key })
    .from(setAsideFindings)
    .where(eq(setAsideFindings.auditId, auditId))
    .orderBy(asc(setAsideFindings.key))
    .all()
    .map(({ key }) => key);

/** Of the given findings, those set aside whose facts are unchanged. */
export function setAsideAmong(store: Store, audit: Audit, findings: readonly Statement[]): Map<string, Aside> {
  const rows = new Map(
    store
      .select()
      .from(setAsideFindings)
      .where(eq(setAsideFindings.auditId, audit.id))
      .all()
      .map((row) => [row.key, row]),
  );
  if (rows.size === 0) return new Map();
  return new Map(
    findings.flatMap((finding) => {
      const row = rows.get(finding.key);
      return row && row.facts === factsOf(audit, finding) ? [[finding.key, row] as const] : [];
    }),
  );
}

/** The findings on the draft without repetitions and without those set aside; empty while it is not audited. */
export function findingsAtHand(store: Store, audit: Audit): Statement[] {
  const all = withoutRepeated(maybeStatedFindings(store, audit) ?? []);
  const aside = setAsideAmong(store, audit, all);
  return aside.size === 0 ? all : all.filter(({ key }) => !aside.has(key));
}

/** The facts of a finding: its claim and rules. */
function factsOf({ draft }: Audit, { claim, rules }: Statement): string {
  const named = draft.entries.filter(({ id }) => rules.includes(id));
  return createHash('sha256')
    .update(JSON.stringify([claim, named]))
    .digest('base64url');
}
