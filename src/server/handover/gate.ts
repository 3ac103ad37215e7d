import { eq } from 'drizzle-orm';
import { isConfirmed } from '../../core/audit/grouping';
import { counted } from '../../core/audit/wording';
import { expectationWords } from '../../core/repair/expectations';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { standings } from '../changes/expectations';
import type { Store } from '../database/open';
import { overrides } from '../database/schema';
import { type FindingLine, lineOf } from '../findings/list-view';
import { maybeResult } from '../findings/results';
import { findingsAtHand } from '../findings/set-aside';
import { listProbes, type ProbeLine } from '../mail/probes';

/** What must be in order before a script is exported, and whether the user exports it all the same. */
export interface GateView {
  readonly expectations: readonly ExpectationState[];
  /** Kept probes with an expected destination. */
  readonly probes: readonly ProbeState[];
  /** Confirmed findings of the gravest consequences that are neither repaired nor set aside. */
  readonly grave: readonly FindingLine[];
  /** Names of what is not in order, which an override covers. */
  readonly items: readonly string[];
  /** The same in plain words. */
  readonly reasons: readonly string[];
  /** Null if there is none for all of it. */
  readonly override: { readonly reason: string; readonly createdAt: number } | null;
  /** Whether findings and expectations are known by now. */
  readonly isKnown: boolean;
}

export interface ExpectationState {
  readonly id: number;
  readonly words: string;
  /** Stored messages that do not meet it; null if not counted yet. */
  readonly broken: number | null;
  /** Probes that do not meet it. */
  readonly probes: readonly string[];
  readonly isMet: boolean;
}

export interface ProbeState extends ProbeLine {
  readonly isMet: boolean;
}

/** Mail lost and mail leaked. */
const GRAVEST: ReadonlySet<string> = new Set(['lost', 'leaked']);

export function gateView(store: Store, audit: Audit): GateView {
  const states = standings(store, audit, audit.draft, maybeFlow(store, audit, audit.draft));
  const expectations = states.map(({ expectation, stored, probes }): ExpectationState => {
    const broken = stored?.broken.count() ?? null;
    const isMet = !broken && probes.length === 0;
    return { id: expectation.id, words: expectationWords(expectation), broken, probes, isMet };
  });
  const probes = listProbes(store, audit.id)
    .filter(({ expected }) => expected !== null)
    .map((probe): ProbeState => ({ ...probe, isMet: probe.line === probe.expected }));
  const grave = findingsAtHand(store, audit).filter(
    (finding) => GRAVEST.has(finding.consequence) && isConfirmed(finding),
  );
  const failing = expectations.filter(({ isMet }) => !isMet);
  const unmet = probes.filter(({ isMet }) => !isMet);
  const items = [
    ...failing.map(({ id }) => `expectation ${id}`),
    ...unmet.map(({ id }) => `probe ${id}`),
    ...grave.map(({ key }) => `finding ${key}`),
  ];
  const isAudited = audit.draft.entries.length === 0 || maybeResult(store, audit, audit.draft) !== null;
  return {
    expectations,
    probes,
    grave: grave.map(lineOf),
    items,
    reasons: [
      ...(failing.length > 0 ? [`${counted(failing.length, 'expectation')} not met`] : []),
      ...(unmet.length > 0 ? [`${counted(unmet.length, 'probe')} with another destination than expected`] : []),
      ...(grave.length > 0 ? [`${counted(grave.length, 'finding')} of lost or leaked mail open`] : []),
    ],
    override: maybeOverride(store, audit.id, items),
    isKnown: isAudited && expectations.every(({ broken }) => broken !== null),
  };
}

/** Whether a script may be exported, as far as that is known. */
export const isOpen = ({ items, override, isKnown }: GateView): boolean =>
  isKnown && (items.length === 0 || override !== null);

/** An override covers what was not in order when it was given, and nothing else. */
function maybeOverride(store: Store, auditId: string, items: readonly string[]): GateView['override'] {
  const row = store.select().from(overrides).where(eq(overrides.auditId, auditId)).get();
  if (!row || items.length === 0 || !items.every((item) => row.items.includes(item))) return null;
  return { reason: row.reason, createdAt: row.createdAt };
}

/** Lets the script be exported although something is not in order. */
export function overrideGate(store: Store, auditId: string, reason: string): void {
  const { items } = gateView(store, getAudit(store, auditId));
  if (items.length === 0) throw new Refusal('Nothing speaks against the export.', 409);
  const row = { auditId, items, reason, createdAt: Date.now() };
  store.insert(overrides).values(row).onConflictDoUpdate({ target: overrides.auditId, set: row }).run();
}

export function dropOverride(store: Store, auditId: string): void {
  store.delete(overrides).where(eq(overrides.auditId, auditId)).run();
}
