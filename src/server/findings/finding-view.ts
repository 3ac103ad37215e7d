import { type Repair, type Statement, type Strength, textOf } from '../../core/audit/finding';
import { Bitmap } from '../../core/flow/bitmap';
import { traceMessage } from '../../core/flow/trace';
import { type Envelope, envelopeOf, type MailMessage, readMessage } from '../../core/mail/message';
import type { Assumption } from '../../core/reason/solve/assumptions';
import { foresee, inOrderOfOffer, tried } from '../../core/repair/foresight';
import { applyEdits, type Edit } from '../../core/rules/edit';
import { profileOf } from '../../core/rules/profile';
import type { Chain } from '../../core/rules/rule';
import { worldFor } from '../../core/sieve/interpret/world';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { type Destination, destinationsOf, type FateView, fateView } from '../chain/destinations';
import { type ShownOutline, shownOutline, shownSentence } from '../chain/shortened';
import { maybeFlow } from '../chain/simulation';
import { previewEdits } from '../changes/changes';
import { brokenBy } from '../changes/expectations';
import { maybeVerdict, type Verdict } from '../changes/verdicts';
import type { Store } from '../database/open';
import { type MessageRow, messageRows, newest } from '../mail/list-view';
import { maybeRaw } from '../mail/raw';
import { trafficSize } from '../mail/traffic';
import { maybeStatedFindings, repairsFor } from './for-target';
import { type FindingLine, lineOf } from './list-view';
import { maybeResult } from './results';
import { type Aside, setAsideAmong } from './set-aside';

/** One finding with its evidence and its repairs, each with its computed effect. */
export interface FindingView extends FindingLine {
  /** What its proof assumes about messages. */
  readonly assumes: readonly Assumption[];
  readonly total: number;
  readonly rules: readonly NamedRule[];
  /** For a finding about two rules: messages that match only the first, both, only the second. */
  readonly split: { readonly onlyFirst: number; readonly both: number; readonly onlySecond: number } | null;
  readonly strength: Strength | null;
  readonly sample: readonly MessageRow[];
  /** The example message as text. */
  readonly witness: {
    readonly text: string;
    readonly from: string | null;
    readonly to: string | null;
    /** The current date that it needs, in milliseconds since 1970; null for any. */
    readonly now: number | null;
  } | null;
  /** The trace of one message of the evidence, under the chain as it is and after the first repair. */
  readonly ways: readonly WayView[];
  readonly destinations: readonly Destination[];
  readonly repairs: readonly RepairView[];
  /** Whether all repairs are tried as soon as the finding is opened; in longer chains only the selected one is. */
  readonly triesAll: boolean;
  readonly aside: Aside | null;
}

export interface NamedRule {
  readonly id: string;
  readonly number: number;
  readonly name: string;
  readonly sentence: string;
  readonly outline: ShownOutline;
}

export interface WayView {
  readonly title: string;
  readonly fate: FateView;
  /** The rules that act, in chain order; `here` marks the rules of the finding. */
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
  /** Messages whose fate changes; null if unknown. */
  readonly changed: number | null;
  /** The result of trying it; null if not tried yet. */
  readonly trial: TrialView | null;
}

export interface TrialView {
  readonly ends: boolean;
  /** Findings of a graver consequence that it would add. */
  readonly worse: readonly FindingLine[];
  readonly ended: number;
  readonly brought: number;
  readonly verdict: Verdict | null;
  /** Names of the expectations that it would break. */
  readonly breaks: readonly string[];
}

const SAMPLE = 8;
/** Auditing a longer chain several times takes minutes. */
const LONG_CHAIN = 1000;
/** Longer example messages are mostly padding. */
const SHOWN_TEXT = 4000;

export function findingView(store: Store, auditId: string, key: string): FindingView | null {
  const audit = getAudit(store, auditId);
  const finding = maybeStatedFindings(store, audit)?.find((candidate) => candidate.key === key);
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
  const { witness, strength } = finding;
  const repairs = repairsFor(store, audit, finding);
  return {
    ...lineOf(finding),
    assumes: finding.assumes ?? [],
    total: trafficSize(store, audit),
    rules,
    split,
    strength,
    sample: messageRows(
      store,
      audit,
      flow,
      newest(store, audit, Bitmap.of(audit.messageCount, finding.messages), SAMPLE),
    ),
    witness: witness && {
      text: textOf(witness).slice(0, SHOWN_TEXT).trimEnd(),
      from: witness.from,
      to: witness.to,
      now: witness.now ?? null,
    },
    ways: waysOf(store, audit, finding, repairs),
    destinations: destinationsOf(audit.draft, flow),
    repairs: inOrderOfOffer(
      repairs.map(({ title, edits }): RepairView => {
        const trial = trialOf(store, audit, finding, edits);
        return { title, edits, changed: effect(store, audit, edits), trial };
      }),
      ({ trial }) => trial && { ends: trial.ends && trial.breaks.length === 0, worse: trial.worse },
    ),
    triesAll: audit.draft.entries.length <= LONG_CHAIN,
    aside: setAsideAmong(store, audit, [finding]).get(key) ?? null,
  };
}

export function namedRules({ draft }: Audit, ids: readonly string[]): NamedRule[] {
  return ids.flatMap((id) => {
    const place = draft.entries.findIndex((entry) => entry.id === id);
    const entry = draft.entries[place];
    if (!entry) return [];
    const said = { sentence: shownSentence(entry, profileOf(draft)), outline: shownOutline(entry, profileOf(draft)) };
    return [{ id, number: place + 1, name: entry.name, ...said }];
  });
}

function waysOf(store: Store, audit: Audit, finding: Statement, repairs: readonly Repair[]): WayView[] {
  const found = messageOf(store, audit, finding);
  if (!found) return [];
  const ways = [{ title: 'The chain as it is', chain: audit.draft }];
  const [repair] = inOrderOfOffer(repairs, ({ edits }) => trialOf(store, audit, finding, edits));
  const after = repair && applyEdits(audit.draft, repair.edits);
  if (after?.ok) ways.push({ title: repair?.title ?? '', chain: after.chain });
  return ways.map(({ title, chain }) => wayOf(audit, finding, title, chain, found));
}

interface Found {
  readonly message: MailMessage;
  readonly envelope: Envelope;
}

/** The example message, or the newest stored one. */
function messageOf(store: Store, audit: Audit, { witness, messages }: Statement): Found | null {
  if (witness) {
    const message = readMessage(new TextEncoder().encode(textOf(witness)));
    return { message, envelope: { from: witness.from, to: witness.to } };
  }
  const [number] = newest(store, audit, Bitmap.of(audit.messageCount, messages), 1);
  const raw = number === undefined ? null : maybeRaw(store, audit.id, number);
  if (!raw) return null;
  const message = readMessage(raw);
  return { message, envelope: envelopeOf(message, audit.recipient) };
}

function wayOf(audit: Audit, { rules }: Statement, title: string, chain: Chain, { message, envelope }: Found): WayView {
  const { fate, entries } = traceMessage(chain, message, envelope, worldFor(message, audit.clock));
  const steps = entries.flatMap(({ entry, outcome, stopped }) =>
    outcome === 'fired' ? [{ id: entry.id, name: entry.name, stopped, here: rules.includes(entry.id) }] : [],
  );
  return { title, fate: fateView(fate), steps };
}

/** The result of trying a repair, if the chain was audited with it. */
function trialOf(store: Store, audit: Audit, finding: Statement, edits: readonly Edit[]): TrialView | null {
  const applied = applyEdits(audit.draft, edits);
  if (!applied.ok) return null;
  const [now, then] = [maybeResult(store, audit, audit.draft), maybeResult(store, audit, applied.chain)];
  const flows = [maybeFlow(store, audit, audit.draft), maybeFlow(store, audit, applied.chain)] as const;
  if (!now || !then || !flows[0] || !flows[1]) return null;
  const foresight = foresee(now.findings, then.findings, flows[1].fates.differsFrom(flows[0].fates));
  const { ends, worse } = tried(finding, then.findings, foresight);
  return {
    ends,
    worse: worse.map(lineOf),
    ended: foresight.ended.length,
    brought: foresight.brought.length,
    verdict: maybeVerdict(store, audit, audit.draft, applied.chain),
    breaks: brokenBy(store, audit, applied.chain, flows, 'known').map(({ name }) => name),
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
