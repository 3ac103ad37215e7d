import type { Certainty, Consequence, Finding, FindingKind, Strength } from '../../core/audit/finding';
import { textOf } from '../../core/audit/finding';
import { grouped, isBorneOut, withoutRepeated } from '../../core/audit/grouping';
import { traceMessage } from '../../core/flow/trace';
import { type Envelope, envelopeOf, type MailMessage, readMessage } from '../../core/mail/message';
import { applyEdits, type Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import { sentenceOf } from '../../core/rules/sentence';
import { makeWorld } from '../../core/sieve/interpret/world';
import { type Aside, asidesAmong } from '../asides';
import { type Audit, getAudit, Refusal } from '../audits';
import { previewEdits } from '../changes';
import type { Store } from '../database/open';
import { maybeRaw } from '../raw';
import { maybeFlow, maybeResult } from '../simulation';
import { type Destination, destinationsOf, type FateView, fateView } from './destinations';
import { type MessageRow, messageRows, newest } from './mail';

/** Which findings are looked at; everything where a part is absent. */
export interface FindingsQuery {
  readonly kind?: string | undefined;
  readonly rule?: string | undefined;
  readonly consequence?: string | undefined;
  /** `made-up`: what only a made-up message shows; `all`; where absent, what stored mail or a proof bears out. */
  readonly basis?: string | undefined;
  readonly certainty?: string | undefined;
  /** Those that were set aside, instead of the others. */
  readonly aside?: string | undefined;
}

export interface FindingsView {
  readonly audited: boolean;
  readonly total: number;
  /** How many findings there are of each, all filters aside; overlaps count for their kind alone. */
  readonly counts: {
    readonly all: number;
    readonly aside: number;
    readonly kinds: Readonly<Partial<Record<FindingKind, number>>>;
    readonly consequences: Readonly<Partial<Record<Consequence, number>>>;
    readonly certainties: Readonly<Partial<Record<Certainty, number>>>;
    readonly bases: { readonly stored: number; readonly madeUp: number };
  };
  /** Rules that some finding names, in the order of the chain. */
  readonly rules: readonly { readonly id: string; readonly name: string }[];
  readonly groups: readonly GroupLine[];
  /** Pairs of rules for which both hold, and pairs that were not asked about. */
  readonly overlaps: number;
  readonly unasked: number;
}

export interface GroupLine {
  readonly lead: FindingLine;
  /** Findings of the same cause beside the lead, the weightiest first. */
  readonly others: readonly FindingLine[];
  /** How many more of them there are. */
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
}

/** Of one group so many are listed. */
const LISTED = 40;

export function findingsView(store: Store, auditId: string, query: FindingsQuery = {}): FindingsView {
  const audit = getAudit(store, auditId);
  const result = maybeResult(store, audit, audit.draft);
  const all = withoutRepeated(result?.findings ?? []);
  const aside = asidesAmong(store, audit, all);
  const open = all.filter(({ key }) => !aside.has(key));
  const wanted = (query.aside ? all.filter(({ key }) => aside.has(key)) : open).filter((one) => meets(one, query));
  const named = new Set(open.flatMap(({ rules }) => rules));
  // Overlaps are looked at as a map.
  const listed = open.filter(({ kind }) => kind !== 'overlap');
  return {
    audited: result !== null,
    total: audit.messageCount,
    counts: {
      all: listed.length,
      aside: aside.size,
      kinds: countBy(open, ({ kind }) => kind),
      consequences: countBy(listed, ({ consequence }) => consequence),
      certainties: countBy(listed, ({ certainty }) => certainty),
      bases: {
        stored: listed.filter(isBorneOut).length,
        madeUp: listed.filter((finding) => !isBorneOut(finding)).length,
      },
    },
    rules: audit.draft.entries.flatMap(({ id, name }) => (named.has(id) ? [{ id, name }] : [])),
    groups: grouped(wanted).map(({ members: [lead, ...others] }) => ({
      lead: lineOf(lead as Finding),
      others: others.slice(0, LISTED).map(lineOf),
      more: Math.max(0, others.length - LISTED),
    })),
    overlaps: result?.overlaps.length ?? 0,
    unasked: result?.unasked ?? 0,
  };
}

function meets(finding: Finding, query: FindingsQuery): boolean {
  const { kind, rules, consequence, certainty } = finding;
  return (
    (query.kind === undefined || query.kind === kind) &&
    (query.rule === undefined || rules.includes(query.rule)) &&
    (query.consequence === undefined || query.consequence === consequence) &&
    (query.certainty === undefined || query.certainty === certainty) &&
    (query.basis === 'all' || (query.basis !== 'made-up') === isBorneOut(finding)) &&
    (kind !== 'overlap' || query.kind === 'overlap' || query.rule !== undefined)
  );
}

function countBy<Name extends string>(
  findings: readonly Finding[],
  nameOf: (finding: Finding) => Name,
): Partial<Record<Name, number>> {
  const counts: Partial<Record<Name, number>> = {};
  for (const finding of findings) counts[nameOf(finding)] = (counts[nameOf(finding)] ?? 0) + 1;
  return counts;
}

export function lineOf({ key, kind, certainty, consequence, claim, messages, witness }: Finding): FindingLine {
  return { key, kind, certainty, consequence, claim, count: messages.length, madeUp: witness !== null };
}

/** One finding with its evidence and its repairs, each with its effect computed. */
export interface FindingView extends FindingLine {
  readonly total: number;
  readonly rules: readonly NamedRule[];
  /** For a finding about two rules: messages only the first holds for, both, only the second. */
  readonly split: { readonly onlyFirst: number; readonly both: number; readonly onlySecond: number } | null;
  readonly strength: Strength | null;
  readonly sample: readonly MessageRow[];
  /** The message that was made up to show it, as text. */
  readonly witness: { readonly text: string; readonly from: string | null; readonly to: string | null } | null;
  /** The way of one message that bears it out: as the chain is, and after the first repair. */
  readonly ways: readonly WayView[];
  readonly destinations: readonly Destination[];
  readonly repairs: readonly RepairView[];
  readonly aside: Aside | null;
}

export interface NamedRule {
  readonly id: string;
  readonly number: number;
  readonly name: string;
  readonly sentence: string;
}

export interface WayView {
  readonly title: string;
  readonly fate: FateView;
  /** The rules that fire, in the order of the chain; `here` where the finding names the rule. */
  readonly steps: readonly {
    readonly id: string;
    readonly name: string;
    readonly stopped: boolean;
    readonly here: boolean;
  }[];
}

export interface RepairView {
  readonly title: string;
  readonly edits: readonly Edit[];
  /** Messages whose fate changes; null where that is not known. */
  readonly changed: number | null;
}

const SAMPLE = 8;
/** Longer made-up messages are mostly blanks that fill them. */
const SHOWN_TEXT = 4000;

export async function findingView(store: Store, auditId: string, key: string): Promise<FindingView | null> {
  const audit = getAudit(store, auditId);
  const finding = maybeResult(store, audit, audit.draft)?.findings.find((candidate) => candidate.key === key);
  if (!finding) return null;
  const flow = maybeFlow(store, audit, audit.draft);
  const rules = namedRules(audit, finding.rules);
  const [first, second] = rules.map(({ number }) => flow?.entries[number - 1]?.held);
  const split =
    rules.length === 2 && first && second
      ? {
          onlyFirst: first.without(second).count(),
          both: first.and(second).count(),
          onlySecond: second.without(first).count(),
        }
      : null;
  const { witness, strength, repairs } = finding;
  return {
    ...lineOf(finding),
    total: audit.messageCount,
    rules,
    split,
    strength,
    sample: messageRows(store, audit, flow, newest(store, audit, finding.messages, SAMPLE)),
    witness: witness && { text: textOf(witness).slice(0, SHOWN_TEXT).trimEnd(), from: witness.from, to: witness.to },
    ways: waysOf(store, audit, finding),
    destinations: destinationsOf(audit.draft, flow),
    repairs: repairs.map(({ title, edits }) => ({ title, edits, changed: effect(store, audit, edits) })),
    aside: asidesAmong(store, audit, [finding]).get(key) ?? null,
  };
}

export function namedRules({ draft }: Audit, ids: readonly string[]): NamedRule[] {
  return ids.flatMap((id) => {
    const place = draft.entries.findIndex((entry) => entry.id === id);
    const entry = draft.entries[place];
    return entry ? [{ id, number: place + 1, name: entry.name, sentence: sentenceOf(entry) }] : [];
  });
}

function waysOf(store: Store, audit: Audit, finding: Finding): WayView[] {
  const found = messageOf(store, audit, finding);
  if (!found) return [];
  const ways = [{ title: 'As the chain is', chain: audit.draft }];
  const [repair] = finding.repairs;
  const after = repair && applyEdits(audit.draft, repair.edits);
  if (after?.ok) ways.push({ title: repair?.title ?? '', chain: after.chain });
  return ways.map(({ title, chain }) => wayOf(audit, finding, title, chain, found));
}

interface Found {
  readonly message: MailMessage;
  readonly envelope: Envelope;
}

/** The message that was made up, or the newest of the stored ones. */
function messageOf(store: Store, audit: Audit, { witness, messages }: Finding): Found | null {
  if (witness) {
    const message = readMessage(new TextEncoder().encode(textOf(witness)));
    return { message, envelope: { from: witness.from, to: witness.to } };
  }
  const [number] = newest(store, audit, messages, 1);
  const raw = number === undefined ? null : maybeRaw(store, audit.id, number);
  if (!raw) return null;
  const message = readMessage(raw);
  return { message, envelope: envelopeOf(message, audit.ownAddresses[0] ?? null) };
}

function wayOf(audit: Audit, { rules }: Finding, title: string, chain: Chain, { message, envelope }: Found): WayView {
  const { fate, entries } = traceMessage(chain, message, envelope, makeWorld({ now: audit.now }));
  const steps = entries.flatMap(({ entry, outcome, stopped }) =>
    outcome === 'fired' ? [{ id: entry.id, name: entry.name, stopped, here: rules.includes(entry.id) }] : [],
  );
  return { title, fate: fateView(fate), steps };
}

function effect(store: Store, audit: Audit, edits: readonly Edit[]): number | null {
  try {
    return previewEdits(store, audit, edits).changed?.count() ?? null;
  } catch (error) {
    if (error instanceof Refusal) return null;
    throw error;
  }
}
