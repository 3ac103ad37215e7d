import type { Bitmap } from '../flow/bitmap';
import type { AtomBitmaps } from '../flow/conditions';
import type { Flow } from '../flow/flow';
import type { KeyUse } from '../flow/key-uses';
import type { Clock } from '../mail/arrival';
import type { Witness } from '../reason/witness';
import { asWritten, inContext } from '../rules/context';
import { profileOf } from '../rules/profile';
import type { Chain } from '../rules/rule';
import { ARRIVAL } from '../sieve/interpret/world';
import { elementAt, keysOf } from '../text/lookup';
import { type AuditContext, auditContext } from './context';
import { CONSEQUENCES, type Finding, type Statement } from './finding';
import { withoutRepeated } from './grouping';
import type { FindingKind } from './kind-words';
import { bulkWords } from './kinds/bulk-word';
import { contradictions } from './kinds/contradiction';
import { cutShort } from './kinds/cut-short';
import { narrowExceptions } from './kinds/exception-narrow';
import { bypassedExceptions, unevenExceptions, voidExceptions } from './kinds/exceptions';
import { forwardRisks } from './kinds/forward-risk';
import { hiddenUnread } from './kinds/hidden-unread';
import { idle } from './kinds/idle';
import { losses } from './kinds/loss';
import { mergeable } from './kinds/mergeable';
import { missingFolders } from './kinds/missing-folder';
import { orderConflicts } from './kinds/order-conflict';
import { type OverlapPair, overlapPairs, overlaps } from './kinds/overlap';
import { placements } from './kinds/placement-disagrees';
import { redundant } from './kinds/redundant';
import { runsOn } from './kinds/runs-on';
import { shadowed } from './kinds/shadowed';
import { subsumedTests } from './kinds/subsumed-test';
import { testFaults } from './kinds/test-faults';
import { tooBroad } from './kinds/too-broad';
import { tooNarrow } from './kinds/too-narrow';
import { unprotected } from './kinds/unprotected';
import { storedBodies } from './known-mail';
import { AuditMemory } from './memory';
import type { OrderState } from './order-table';
import { type AuditBudget, auditBudget, Questions } from './questions';
import { soughtFor } from './sought';
import { type StoredMail, type Valued, valued } from './stored';
import { NOTES } from './wording';

/** The input of an audit. */
export interface AuditInput {
  readonly chain: Chain;
  readonly flow: Flow;
  /** The tests of the chain over the stored mail. */
  readonly atoms: AtomBitmaps;
  readonly mail: StoredMail;
  /** The same with what the user values, if that is known. */
  readonly valued?: Valued;
  /** How keys stand in the texts of the messages given for each; absent if the texts cannot be read. */
  readonly usesOf?: (wanted: ReadonlyMap<string, Bitmap>) => ReadonlyMap<string, KeyUse>;
}

export interface AuditSettings {
  /** The memory of earlier audits, which is used and extended; none if absent. */
  readonly memory?: AuditMemory;
  readonly budget?: AuditBudget;
  /** The current date that rules see; if absent, the time when each message arrived. */
  readonly clock?: Clock;
  /** Messages that the user keeps to try on the chain; what they show is confirmed. */
  readonly probes?: readonly Witness[];
  /** When the audit takes place, in milliseconds since 1970: dates before it are over. */
  readonly today?: number;
  /** Only which of these findings are still true matters: less is looked for then, and the numbers of pairs mean nothing. */
  readonly about?: readonly Statement[];
  /** Reports progress; may throw to cancel. */
  readonly progress?: (done: number, total: number) => void;
}

export interface AuditResult {
  /** Gravest first. */
  readonly findings: readonly Finding[];
  /** All pairs of rules that some message matches both of. */
  readonly overlaps: readonly OverlapLine[];
  /** Pairs of rules for which it is not settled whether some message matches both. */
  readonly unasked: number;
  /** Pairs of rules that overlap, but are not in `overlaps` because of the budget; no stored message matches both. */
  readonly unlisted: number;
  /** What the audit could not judge, for all rules alike. */
  readonly notes: readonly string[];
  /** What is known of the order of the pairs that overlap: how many of each. */
  readonly orders: Readonly<Record<OrderState, number>>;
}

export interface OverlapLine {
  /** Ids of the rules, in chain order. */
  readonly a: string;
  readonly b: string;
  /** Stored messages that match both; 0 if only an example message does. */
  readonly messages: number;
}

/** The function that states each kind, except the one that needs a target. Overlapping pairs are computed once. */
const KIND_OF: Readonly<
  Record<Exclude<FindingKind, 'not-portable'>, (context: AuditContext, pairs: readonly OverlapPair[]) => Finding[]>
> = {
  contradiction: contradictions,
  shadowed,
  loss: losses,
  'forward-risk': forwardRisks,
  unprotected,
  'exception-bypassed': bypassedExceptions,
  'exception-uneven': unevenExceptions,
  'exception-void': voidExceptions,
  'exception-narrow': narrowExceptions,
  'cut-short': cutShort,
  'order-conflict': orderConflicts,
  'runs-on': runsOn,
  'hidden-unread': hiddenUnread,
  'placement-disagrees': placements,
  'too-broad': tooBroad,
  'bulk-word': bulkWords,
  'too-narrow': (context) => [...tooNarrow(context), ...testFaults(context)],
  'missing-folder': missingFolders,
  redundant,
  mergeable,
  'subsumed-test': subsumedTests,
  idle,
  overlap: overlaps,
};

/**
 * Audits a chain by proof and on stored mail. Internally each rule carries its context, so that changes made by earlier
 * entries are seen; findings refer to the rules as written.
 */
export function auditChain(input: AuditInput, settings: AuditSettings = {}): AuditResult {
  const { chain, flow } = input;
  const inside = inContext(chain);
  if (inside === chain) return auditInContext(input, settings);
  const entries = flow.entries.map((one, place) => ({ ...one, entry: elementAt(inside.entries, place) }));
  return asWritten(auditInContext({ ...input, chain: inside, flow: { ...flow, entries } }, settings));
}

function auditInContext(
  { chain, flow, atoms, mail, valued: known, usesOf = () => new Map() }: AuditInput,
  settings: AuditSettings,
): AuditResult {
  const {
    memory = new AuditMemory(),
    budget = auditBudget(chain.entries.length),
    clock = ARRIVAL,
    probes = [],
    today = clock.fixed ?? Date.now(),
    about,
    progress = () => {},
  } = settings;
  let [done, total] = [0, 1];
  const checkpoint = () => progress(done, total);
  const { stored, whole } = storedBodies(chain, flow, atoms, checkpoint);
  memory.begin(clock, probes, checkpoint);
  const report = (...come: [number, number]) => {
    [done, total] = come;
    progress(...come);
  };
  const questions = new Questions(chain, budget, memory, checkpoint);
  const context = auditContext({
    chain,
    stored,
    whole,
    mail: known ?? valued(mail, checkpoint),
    usesOf,
    questions,
    memory,
    clock,
    today,
    checkpoint,
    progress: report,
  });
  const sought = about && soughtFor(about);
  const pairs = overlapPairs(context, sought?.isAbout);
  const isWanted = (kind: FindingKind) => !isSilent(kind, chain) && (!sought || sought.kinds.has(kind));
  const kinds = keysOf(KIND_OF).filter(isWanted);
  const findings = kinds.flatMap((kind, at) => {
    report(at, kinds.length);
    return KIND_OF[kind](sought?.within(context, kind) ?? context, pairs).map((finding): Finding => {
      return finding.witness && memory.isKept(finding.witness) ? { ...finding, isKept: true } : finding;
    });
  });
  const lines = pairs.map(({ a, b, messages }) => {
    checkpoint();
    return { a: a.entry.id, b: b.entry.id, messages: messages.count() };
  });
  const unlisted = context.pairs.count('possible') - pairs.length;
  return {
    findings: byWeight(findings, chain, mail, checkpoint),
    overlaps: lines,
    unasked: context.pairs.count('unknown'),
    unlisted,
    notes: notesOn(context),
    orders: context.orders.counts(checkpoint),
  };
}

/** Kinds that speak of the order of rules, which a program may not have. */
const isSilent = (kind: FindingKind, chain: Chain): boolean =>
  profileOf(chain)?.order === 'none' && (kind === 'order-conflict' || kind === 'cut-short');

/** Without folders, nothing is known about how the user files mail. */
function notesOn({ mail, rules }: AuditContext): string[] {
  const isFiling = rules.some(({ entry }) => entry.actions.some(({ action }) => action === 'fileinto'));
  return mail.isOneFolder && isFiling ? [NOTES['one folder'](mail.mail.messages.length)] : [];
}

/**
 * What others imply comes last. By consequence; then by the number of stored messages and how recent they are; then by
 * chain order.
 */
function byWeight(
  findings: readonly Finding[],
  chain: Chain,
  { messages }: StoredMail,
  checkpoint: () => void,
): Finding[] {
  const places = new Map(chain.entries.map((entry, place) => [entry.id, place]));
  const kinds = Object.keys(KIND_OF);
  checkpoint();
  const dates = new Float64Array(messages.length);
  let number = 0;
  for (const { date } of messages) dates[number++] = date ?? 0;
  const weighed = findings.map((finding) => {
    checkpoint();
    const { kind, rules, consequence, messages: shown } = finding;
    return {
      finding,
      consequence: CONSEQUENCES.indexOf(consequence),
      messages: shown.length,
      recency: shown.reduce((newest, number) => Math.max(newest, dates[number] ?? 0), 0),
      kind: kinds.indexOf(kind),
      place: places.get(rules[0] ?? '') ?? 0,
    };
  });
  weighed.sort(
    (a, b) =>
      a.consequence - b.consequence ||
      b.messages - a.messages ||
      b.recency - a.recency ||
      a.kind - b.kind ||
      a.place - b.place,
  );
  const sorted = weighed.map(({ finding }) => finding);
  const own = new Set<Statement>(withoutRepeated(sorted));
  return [...sorted.filter((finding) => own.has(finding)), ...sorted.filter((finding) => !own.has(finding))];
}
