import { and, eq } from 'drizzle-orm';
import { isVerified, type Verification } from '../../core/handover/verify';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { type Audit, chainHash, getAudit, Refusal } from '../audits';
import type { Store } from '../database/open';
import { verifications } from '../database/schema';

export interface ExportView {
  readonly text: string;
  readonly requires: readonly string[];
  readonly rules: number;
  /** Rules that are off, and blocks that could not be understood: not in the script. */
  readonly leftOut: readonly { readonly name: string; readonly reason: string }[];
  readonly total: number;
  readonly verification:
    | (Verification & { readonly verified: boolean; readonly at: number; readonly hash: string })
    | null;
}

export function exportView(store: Store, auditId: string): ExportView {
  const audit = getAudit(store, auditId);
  const { script, text } = sieveFromChain(audit.draft);
  const require = script.commands.find((statement) => statement.kind === 'command' && statement.name === 'require');
  const requires =
    require?.kind === 'command'
      ? require.args.flatMap((arg) =>
          arg.kind === 'string' ? [arg.value] : arg.kind === 'string-list' ? arg.items.map((item) => item.value) : [],
        )
      : [];
  const leftOut = audit.draft.entries.flatMap((entry) => {
    if (!entry.on) return [{ name: entry.name, reason: 'is off' }];
    return entry.kind === 'script' && !entry.works ? [{ name: entry.name, reason: entry.reason }] : [];
  });
  const total = audit.messageCount;
  const rules = audit.draft.entries.length - leftOut.length;
  return { text, requires, rules, leftOut, total, verification: maybeVerification(store, audit) };
}

function maybeVerification(store: Store, audit: Audit): ExportView['verification'] {
  const row = store
    .select()
    .from(verifications)
    .where(and(eq(verifications.auditId, audit.id), eq(verifications.chainHash, chainHash(audit.draft))))
    .get();
  if (!row || row.count !== audit.messageCount) return null;
  const record = JSON.parse(row.record) as Verification;
  const verified = isVerified(record, audit.messageCount);
  return { ...record, verified, at: row.createdAt, hash: row.scriptHash };
}

/** The script for a download; refused unless the very chain it is written from was verified. */
export function verifiedScript(store: Store, auditId: string): string {
  const view = exportView(store, auditId);
  if (!view.verification) throw new Refusal('The script was not verified yet.', 409);
  if (!view.verification.verified) {
    throw new Refusal('The script does not give every message the same fate as the rules.', 409);
  }
  return view.text;
}
