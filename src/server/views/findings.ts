import type { Certainty, Consequence, Finding, FindingKind } from '../../core/audit/finding';
import { withoutRepeated } from '../../core/audit/grouping';
import type { Edit } from '../../core/rules/edit';
import { sentenceOf } from '../../core/rules/sentence';
import { type Audit, getAudit, Refusal } from '../audits';
import { previewEdits } from '../changes';
import type { Store } from '../database/open';
import { maybeFindings, maybeFlow } from '../simulation';
import { type MessageRow, messageRows, newest } from './mail';

export interface FindingsView {
  readonly audited: boolean;
  readonly total: number;
  readonly findings: readonly FindingLine[];
}

export interface FindingLine {
  readonly key: string;
  readonly kind: FindingKind;
  readonly certainty: Certainty;
  readonly consequence: Consequence;
  readonly claim: string;
  readonly count: number;
}

export function findingsView(store: Store, auditId: string): FindingsView {
  const audit = getAudit(store, auditId);
  const findings = maybeFindings(store, audit, audit.draft);
  return {
    audited: findings !== null,
    total: audit.messageCount,
    findings: withoutRepeated(findings ?? []).map(lineOf),
  };
}

function lineOf({ key, kind, certainty, consequence, claim, messages }: Finding): FindingLine {
  return { key, kind, certainty, consequence, claim, count: messages.length };
}

/** One finding with its evidence and its repairs, each with its effect computed. */
export interface FindingView extends FindingLine {
  readonly total: number;
  readonly rules: readonly {
    readonly id: string;
    readonly number: number;
    readonly name: string;
    readonly sentence: string;
  }[];
  /** For a finding about two rules: messages only the first holds for, both, only the second. */
  readonly split: { readonly onlyFirst: number; readonly both: number; readonly onlySecond: number } | null;
  readonly sample: readonly MessageRow[];
  readonly repairs: readonly RepairView[];
}

export interface RepairView {
  readonly title: string;
  readonly edits: readonly Edit[];
  /** Messages whose fate changes; null where that is not known. */
  readonly changed: number | null;
}

const SAMPLE = 8;

export function findingView(store: Store, auditId: string, key: string): FindingView | null {
  const audit = getAudit(store, auditId);
  const finding = maybeFindings(store, audit, audit.draft)?.find((candidate) => candidate.key === key);
  if (!finding) return null;
  const flow = maybeFlow(store, audit, audit.draft);
  const places = new Map(audit.draft.entries.map((entry, place) => [entry.id, { entry, place }]));
  const rules = finding.rules.flatMap((id) => {
    const found = places.get(id);
    if (!found) return [];
    return [{ id, number: found.place + 1, name: found.entry.name, sentence: sentenceOf(found.entry) }];
  });
  const [first, second] = finding.rules.map((id) => flow?.entries[places.get(id)?.place ?? -1]?.held);
  const split =
    finding.rules.length === 2 && first && second
      ? {
          onlyFirst: first.without(second).count(),
          both: first.and(second).count(),
          onlySecond: second.without(first).count(),
        }
      : null;
  return {
    ...lineOf(finding),
    total: audit.messageCount,
    rules,
    split,
    sample: messageRows(store, audit, flow, newest(store, audit, finding.messages, SAMPLE)),
    repairs: finding.repairs.map(({ title, edits }) => ({ title, edits, changed: effect(store, audit, edits) })),
  };
}

function effect(store: Store, audit: Audit, edits: readonly Edit[]): number | null {
  try {
    return previewEdits(store, audit, edits).changed?.count() ?? null;
  } catch (error) {
    if (error instanceof Refusal) return null;
    throw error;
  }
}
