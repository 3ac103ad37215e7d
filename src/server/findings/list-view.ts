import type { Certainty, Consequence, Statement } from '../../core/audit/finding';
import { type FindingGroup, grouped, isConfirmed, withoutRepeated } from '../../core/audit/grouping';
import type { FindingKind } from '../../core/audit/kind-words';
import { elementAt } from '../../core/text/lookup';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { trafficSize } from '../mail/traffic';
import { type Cause, causesOf } from '../plan/causes';
import { maybeAllFindings } from './for-target';
import { setAsideAmong } from './set-aside';

/** Filters of the list; an absent filter accepts everything. */
export interface FindingsQuery {
  readonly kind?: string | undefined;
  readonly rule?: string | undefined;
  readonly consequence?: string | undefined;
  /** `made-up`: findings shown only by an example message; `all`; absent: confirmed findings. */
  readonly basis?: string | undefined;
  readonly certainty?: string | undefined;
  /** Only findings that are set aside, instead of the others. */
  readonly aside?: string | undefined;
}

export interface FindingsView {
  readonly audited: boolean;
  /** Whether there are rules to audit. */
  readonly ruled: boolean;
  readonly total: number;
  /** Counts of findings, ignoring filters; overlaps count only under their kind. */
  readonly counts: {
    readonly all: number;
    readonly aside: number;
    readonly kinds: Readonly<Partial<Record<FindingKind, number>>>;
    readonly consequences: Readonly<Partial<Record<Consequence, number>>>;
    readonly certainties: Readonly<Partial<Record<Certainty, number>>>;
    readonly bases: { readonly stored: number; readonly madeUp: number };
  };
  /** Rules named by findings, in chain order. */
  readonly rules: readonly { readonly id: string; readonly name: string }[];
  readonly groups: readonly GroupLine[];
  /** Pairs of rules that overlap, and pairs that were not checked. */
  readonly overlaps: number;
  readonly unasked: number;
  /** What the audit could not judge. */
  readonly notes: readonly string[];
}

export interface GroupLine {
  /** What must be changed or answered; null if the plan does not know. */
  readonly cause: Cause | null;
  readonly lead: FindingLine;
  /** Findings with the same cause besides the lead, weightiest first. */
  readonly others: readonly FindingLine[];
  /** How many more there are. */
  readonly more: number;
}

export interface FindingLine {
  readonly key: string;
  readonly kind: FindingKind;
  readonly certainty: Certainty;
  readonly consequence: Consequence;
  readonly claim: string;
  readonly count: number;
  readonly madeUp: boolean;
  /** Whether that message is a kept probe. */
  readonly isKept: boolean;
}

/** Findings listed of one group. */
const LISTED = 40;

export function findingsView(store: Store, auditId: string, query: FindingsQuery = {}): FindingsView {
  const audit = getAudit(store, auditId);
  const result = maybeAllFindings(store, audit);
  const all = withoutRepeated(result?.findings ?? []);
  const aside = setAsideAmong(store, audit, all);
  const open = all.filter(({ key }) => !aside.has(key));
  const wanted = (query.aside ? all.filter(({ key }) => aside.has(key)) : open).filter((one) => meets(one, query));
  const named = new Set(open.flatMap(({ rules }) => rules));
  // Overlaps are shown on the map instead.
  const listed = open.filter(({ kind }) => kind !== 'overlap');
  return {
    audited: result !== null,
    ruled: audit.draft.entries.length > 0,
    total: trafficSize(store, audit),
    counts: {
      all: listed.length,
      aside: aside.size,
      kinds: countBy(open, ({ kind }) => kind),
      consequences: countBy(listed, ({ consequence }) => consequence),
      certainties: countBy(listed, ({ certainty }) => certainty),
      bases: {
        stored: listed.filter(isConfirmed).length,
        madeUp: listed.filter((finding) => !isConfirmed(finding)).length,
      },
    },
    rules: audit.draft.entries.flatMap(({ id, name }) => (named.has(id) ? [{ id, name }] : [])),
    groups: byCause(wanted, causesOf(store, audit)).map(({ cause, lead, members: [, ...others] }) => ({
      cause,
      lead: lineOf(lead),
      others: others.slice(0, LISTED).map(lineOf),
      more: Math.max(0, others.length - LISTED),
    })),
    overlaps: result?.overlaps.length ?? 0,
    unasked: result?.unasked ?? 0,
    notes: result?.notes ?? [],
  };
}

interface CauseGroup extends Pick<FindingGroup, 'lead' | 'members'> {
  readonly cause: Cause | null;
}

/** Groups findings by what must be changed, in the order of their leads; the others by what they have in common. */
function byCause(findings: readonly Statement[], causes: ReadonlyMap<string, Cause>): CauseGroup[] {
  const together = new Map<string, { readonly cause: Cause; readonly members: Statement[] }>();
  for (const finding of findings) {
    const cause = causes.get(finding.key);
    if (!cause) continue;
    const name = `${cause.by} ${cause.key}`;
    const group = together.get(name) ?? { cause, members: [] };
    group.members.push(finding);
    together.set(name, group);
  }
  const groups: CauseGroup[] = [
    ...Array.from(together.values(), ({ cause, members }) => ({ cause, lead: elementAt(members, 0), members })),
    ...grouped(findings.filter(({ key }) => !causes.has(key))).map((group) => ({ ...group, cause: null })),
  ];
  const places = new Map(findings.map(({ key }, at) => [key, at]));
  const placeOf = ({ lead }: CauseGroup) => places.get(lead.key) ?? 0;
  return groups.sort((a, b) => placeOf(a) - placeOf(b));
}

function meets(finding: Statement, query: FindingsQuery): boolean {
  const { kind, rules, consequence, certainty } = finding;
  return (
    (query.kind === undefined || query.kind === kind) &&
    (query.rule === undefined || rules.includes(query.rule)) &&
    (query.consequence === undefined || query.consequence === consequence) &&
    (query.certainty === undefined || query.certainty === certainty) &&
    (query.basis === 'all' || (query.basis !== 'made-up') === isConfirmed(finding)) &&
    (kind !== 'overlap' || query.kind === 'overlap' || query.rule !== undefined)
  );
}

function countBy<Name extends string>(
  findings: readonly Statement[],
  nameOf: (finding: Statement) => Name,
): Partial<Record<Name, number>> {
  const counts: Partial<Record<Name, number>> = {};
  for (const finding of findings) counts[nameOf(finding)] = (counts[nameOf(finding)] ?? 0) + 1;
  return counts;
}

export function lineOf({
  key,
  kind,
  certainty,
  consequence,
  claim,
  messages,
  witness,
  isKept,
}: Statement): FindingLine {
  const shown = { count: messages.length, madeUp: witness !== null, isKept: isKept === true };
  return { key, kind, certainty, consequence, claim, ...shown };
}
