import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { traceMessage } from '../../core/flow/trace';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { isCountable, named, type RuleFault, ruleFaults } from '../../core/repair/rule-faults';
import { closed } from '../../core/repair/tree-edits';
import type { Edit } from '../../core/rules/edit';
import { profileOf } from '../../core/rules/profile';
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

/** A rule being edited, and its place. */
export interface Written {
  readonly rule: Rule;
  /** The rule as it was when editing began; null for a new one. */
  readonly begun: Rule | null;
  /** For a new rule, the entry directly before it; null for the beginning of the chain. */
  readonly behind: string | null;
}

/** The view of a rule while it is edited. */
export interface TrialView {
  readonly sentence: string;
  readonly outline: ShownOutline;
  /** As Sieve; empty if it has no Sieve form yet. */
  readonly text: string;
  readonly faults: readonly RuleFault[];
  /** The edits that save it; null while a fault must be corrected, or if nothing changed. */
  readonly edits: readonly Edit[] | null;
  /** The edits whose effect is counted: those of a rule that lacks no more than a name. */
  readonly counted: readonly Edit[] | null;
  /** Null if there is a grave fault other than a missing name, or if tests must be evaluated first. */
  readonly effect: TrialEffect | null;
  /** Expectations that it would break, as far as known without a job. */
  readonly broken: readonly Broken[];
}

export interface TrialEffect {
  /** All stored messages. */
  readonly total: number;
  /** Messages that match the rule, whether or not they reach it. */
  readonly held: number;
  readonly fires: number;
  /** Of the messages it acts on, those that no rule acts on now. */
  readonly untaken: number;
  /** Messages it acts on that the saved rule does not, and the reverse. */
  readonly gained: number;
  readonly lost: number;
  /** Messages with another fate than now. */
  readonly changed: number;
  readonly samples: readonly Sample[];
}

/** A sample message of the effect of a rule. */
export interface Sample {
  readonly row: MessageRow;
  readonly part: 'gained' | 'lost' | 'kept';
  readonly before: string;
  readonly after: string;
  /** The words that made its tests match. */
  readonly evidence: readonly string[];
}

/** Sample messages of each part. */
const SHOWN = 5;

/** Checks a rule being edited and computes its effect on stored mail. Slow tests are not evaluated here. */
export function trialView(store: Store, auditId: string, written: Written): TrialView {
  const audit = getAudit(store, auditId);
  // Faults name the parts of the rule as it is edited.
  const faults = ruleFaults(written.rule);
  const rule = closed(written.rule);
  const edits = faults.some(({ grave }) => grave) ? null : editsOf(audit.draft, { ...written, rule });
  const profile = profileOf(audit.draft);
  const said = { sentence: shownSentence(rule, profile), outline: shownOutline(rule, profile) };
  // What it catches needs no name.
  const counted = edits ?? (isCountable(written.rule) ? editsOf(audit.draft, { ...written, rule: named(rule) }) : null);
  const view = { ...said, text: textOf(rule), faults, edits, counted };
  if (counted === null) return { ...view, effect: null, broken: [] };
  const chain = chainAfter(audit, counted);
  const [before, after] = [maybeFlow(store, audit, audit.draft), flowAtOnce(store, audit, chain)];
  if (!before || !after) return { ...view, effect: null, broken: [] };
  const broken = brokenBy(store, audit, chain, [before, after], 'known');
  return { ...view, effect: effectOf(store, audit, before, after, rule.id), broken };
}

/** The edit that saves the rule; none if it is unchanged. */
function editsOf(draft: Chain, { rule, begun, behind }: Written): Edit[] {
  const placeOf = (id: string) => {
    const place = draft.entries.findIndex((entry) => entry.id === id);
    if (place < 0) throw new Refusal('The rule is no longer in the chain.', 409);
    return place;
  };
  const from = begun ? placeOf(begun.id) : behind === null ? 0 : placeOf(behind) + 1;
  if (begun && !isSame(draft.entries[from], begun)) {
    throw new Refusal(
      'The rule was changed in another window meanwhile. Reload the page to see that change; saving now would undo it.',
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
  const shown = (messages: Bitmap) => newest(store, audit, messages, SHOWN);
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

/** Octets of a message that are searched for the words. */
const READ = 256 * 1024;
/** Most octets on which a rule is run for the words of all samples. */
export const TRIAL_OCTETS = 3 * SHOWN * READ;

/** The words of a message that make the tests of a rule match, found by the interpreter. */
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
