import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { traceMessage } from '../../core/flow/trace';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { type RuleFault, ruleFaults } from '../../core/repair/rule-faults';
import { closed } from '../../core/repair/tree-edits';
import type { Edit } from '../../core/rules/edit';
import { editingText } from '../../core/rules/rewrite';
import type { Chain, Rule } from '../../core/rules/rule';
import { isSame } from '../../core/rules/same';
import { worldFor } from '../../core/sieve/interpret/world';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { chainAfter } from '../changes/changes';
import { partsOfRule } from '../changes/compare-destinations';
import { type Broken, brokenBy } from '../changes/expectations';
import type { Store } from '../database/open';
import { type MessageRow, messageRows, newest } from '../mail/list-view';
import { evidenceWords } from '../mail/message-view';
import { maybeRaw } from '../mail/raw';
import { trafficSize } from '../mail/traffic';
import { fateLine, fateView } from './destinations';
import { type ShownOutline, shownOutline, shownSentence } from './shortened';
import { flowAtOnce, maybeFlow } from './simulation';

/** A rule that is being written: where it stands, and as what. */
export interface Written {
  readonly rule: Rule;
  /** The rule it changes, as it was when writing began; null for a new one. */
  readonly begun: Rule | null;
  /** For a new one, the entry directly behind which it stands; null for the head of the chain. */
  readonly behind: string | null;
}

/** What is to be said of a rule while it is written. */
export interface TrialView {
  readonly sentence: string;
  readonly outline: ShownOutline;
  /** As Sieve; empty where it cannot be written. */
  readonly text: string;
  readonly faults: readonly RuleFault[];
  /** Makes the change; null while a fault must be put right, or where nothing is changed. */
  readonly edits: readonly Edit[] | null;
  /** Null where there is a grave fault, or tests have to be evaluated first. */
  readonly effect: TrialEffect | null;
  /** Expectations that it would break, as far as that is known at once. */
  readonly broken: readonly Broken[];
}

export interface TrialEffect {
  /** All stored messages. */
  readonly total: number;
  /** Its tests hold and no exception does, whether or not they come to it. */
  readonly held: number;
  readonly fires: number;
  /** Of those it fires for, the ones no rule acts on now. */
  readonly untaken: number;
  /** Fires for them, and did not as it was saved; and the other way round. */
  readonly gained: number;
  readonly lost: number;
  /** Messages that end otherwise than now. */
  readonly changed: number;
  readonly samples: readonly Sample[];
}

/** A message that shows what a rule does. */
export interface Sample {
  readonly row: MessageRow;
  readonly part: 'gained' | 'lost' | 'kept';
  readonly before: string;
  readonly after: string;
  /** The words that made its tests hold. */
  readonly evidence: readonly string[];
}

/** Messages of each part that are shown. */
const SHOWN = 5;

/** A rule as it is written, and what it would do to the stored mail. Tests that take long are not evaluated here. */
export function trialView(store: Store, auditId: string, written: Written): TrialView {
  const audit = getAudit(store, auditId);
  // Faults name the parts of the rule as it is written.
  const faults = ruleFaults(written.rule);
  const rule = closed(written.rule);
  const edits = faults.some(({ grave }) => grave) ? null : editsOf(audit.draft, { ...written, rule });
  const view = { sentence: shownSentence(rule), outline: shownOutline(rule), text: textOf(rule), faults, edits };
  if (edits === null) return { ...view, effect: null, broken: [] };
  const chain = chainAfter(audit, edits);
  const [before, after] = [maybeFlow(store, audit, audit.draft), flowAtOnce(store, audit, chain)];
  if (!before || !after) return { ...view, effect: null, broken: [] };
  const broken = brokenBy(store, audit, chain, [before, after], 'known');
  return { ...view, effect: effectOf(store, audit, before, after, rule.id), broken };
}

/** The edit that puts the rule into the chain; none where it stands there just so. */
function editsOf(draft: Chain, { rule, begun, behind }: Written): Edit[] {
  const placeOf = (id: string) => {
    const place = draft.entries.findIndex((entry) => entry.id === id);
    if (place < 0) throw new Refusal('The rule is no longer in the chain.', 409);
    return place;
  };
  const from = begun ? placeOf(begun.id) : behind === null ? 0 : placeOf(behind) + 1;
  if (begun && !isSame(draft.entries[from], begun)) {
    throw new Refusal(
      'The rule has been changed meanwhile, in another window: what is written here would undo that.',
      409,
    );
  }
  if (begun && isSame(closed(begun), rule)) return [];
  const before = begun ? [begun] : [];
  const closing = { before: draft.closing, after: draft.closing };
  return [{ kind: 'rewrite', from, before, after: [rule], closing }];
}

function textOf(rule: Rule): string {
  try {
    return editingText({ entries: [{ ...rule, link: 'always' }], closing: '' }, null);
  } catch {
    return '';
  }
}

function effectOf(store: Store, audit: Audit, before: Flow, after: Flow, id: string): TrialEffect {
  const { held, fired, untaken, gained, lost } = partsOfRule(before, after, id);
  const shown = (messages: Bitmap) => newest(store, audit, [...messages.members()], SHOWN);
  const parts = [
    ...shown(gained).map((number) => [number, 'gained'] as const),
    ...shown(lost).map((number) => [number, 'lost'] as const),
    ...shown(fired.without(gained)).map((number) => [number, 'kept'] as const),
  ];
  const rows = new Map(
    messageRows(
      store,
      audit,
      after,
      parts.map(([number]) => number),
    ).map((row) => [row.number, row]),
  );
  const lineIn = (flow: Flow, number: number) => fateLine(fateView(flow.fates.fateOf(number)));
  return {
    total: trafficSize(store, audit),
    held: held.count(),
    fires: fired.count(),
    untaken: untaken.count(),
    gained: gained.count(),
    lost: lost.count(),
    changed: after.fates.differsFrom(before.fates).count(),
    samples: parts.flatMap(([number, part]): Sample[] => {
      const row = rows.get(number);
      if (!row) return [];
      const flow = part === 'lost' ? before : after;
      const evidence = evidenceFor(store, audit, flow, id, number);
      return [{ row, part, before: lineIn(before, number), after: lineIn(after, number), evidence }];
    }),
  };
}

/** Octets that are read of a message to find the words. */
const READ = 256 * 1024;
/** Octets on which a rule is run at most for the words of all samples. */
export const TRIAL_OCTETS = 3 * SHOWN * READ;

/** The words of a message that make the tests of a rule hold, as the interpreter tells them. */
function evidenceFor(store: Store, audit: Audit, flow: Flow, id: string, number: number): string[] {
  const entry = flow.entries.find((one) => one.entry.id === id)?.entry;
  const raw = maybeRaw(store, audit.id, number, READ);
  if (entry?.kind !== 'rule' || !raw) return [];
  const message = readMessage(raw);
  const alone: Chain = { entries: [{ ...entry, on: true, link: 'always' }], closing: '' };
  const trace = traceMessage(alone, message, envelopeOf(message, audit.recipient), worldFor(message, audit.clock));
  const words = trace.entries.flatMap(({ tests }) => tests.flatMap(({ evidence }) => evidence.map(evidenceWords)));
  return [...new Set(words)].slice(0, 3);
}
