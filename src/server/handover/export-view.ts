import { assuming, counted } from '../../core/audit/wording';
import { Bitmap } from '../../core/flow/bitmap';
import { type FolderNames, faultsOfNames, nameThere } from '../../core/handover/folder-names';
import type { Cost, Unsayable } from '../../core/handover/rewrite';
import { READY_TARGETS } from '../../core/handover/target';
import { type HandoverRecord, isVerified } from '../../core/handover/verify';
import { usersOf } from '../../core/rules/lists';
import type { Chain, ChainEntry } from '../../core/rules/rule';
import { canonicalFolder } from '../../core/sieve/interpret/fate';
import { hasReferences } from '../../core/sieve/interpret/run';
import { figure } from '../../core/text/figure';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { type MessageRow, messageRows, newest } from '../mail/list-view';
import { trafficSize } from '../mail/traffic';
import { type Announced, maybeAnnounced } from './announced';
import { type GateView, gateView, isOpen } from './gate';
import {
  type HandedScript,
  type HandoverSettings,
  handoverSettings,
  type KeptRecord,
  listHanded,
  maybeRecord,
  preparedScript,
  targetOf,
} from './handover';

export interface ExportView {
  readonly settings: HandoverSettings;
  readonly targets: readonly { readonly id: string; readonly title: string; readonly about: string }[];
  /** The last server that announced what it supports; null if there was none. */
  readonly server: Announced | null;
  /** Named lists that tests use, if the target supports external lists. */
  readonly lists: readonly { readonly id: string; readonly name: string }[];
  readonly text: string;
  readonly octets: number;
  readonly requires: readonly string[];
  readonly rules: number;
  /** Entries that are not in the script: rules that are off, and blocks that were not understood. */
  readonly leftOut: readonly { readonly name: string; readonly reason: string }[];
  /** Folders that must exist on the server: their names in the rules and there. */
  readonly folders: readonly FolderLine[];
  /** Script blocks that file where variables say: these names stay as they are. */
  readonly blocks: readonly string[];
  readonly costs: readonly CostLine[];
  /** What prevents the export, in plain words. */
  readonly obstacles: readonly string[];
  /** Messages that run through the rules, and all stored ones: the script is verified on all. */
  readonly total: number;
  readonly stored: number;
  readonly verification: VerificationView | null;
  readonly gate: GateView;
  readonly handed: readonly HandedScript[];
}

interface FolderLine {
  readonly here: string;
  readonly there: string;
  /** Whether the user says that the server does not have it. */
  readonly isMissing: boolean;
}

/** The difference of one rule. */
export interface CostLine {
  readonly id: string;
  readonly name: string;
  readonly words: readonly string[];
  /** Whether the rule is not portable at all, the possible decisions, and the one made. */
  readonly ways: readonly Unsayable[];
  readonly decided: Unsayable | null;
  readonly accepted: boolean;
  /** The keys to accept. */
  readonly keys: readonly string[];
  /** Stored messages with another fate; null if not counted yet. */
  readonly messages: number | null;
  readonly sample: readonly MessageRow[];
  /** Proved to have no effect. */
  readonly none: boolean;
}

export interface VerificationView extends Omit<HandoverRecord, 'costs' | 'undeclared'> {
  readonly verified: boolean;
  /** The checks and their results, in plain words. */
  readonly checks: readonly string[];
  readonly undeclared: number;
  readonly at: number;
  readonly hash: string;
}

const SAMPLE = 3;

export function exportView(store: Store, auditId: string): ExportView {
  const audit = getAudit(store, auditId);
  const settings = handoverSettings(store, auditId);
  const prepared = preparedScript(store, audit);
  const record = maybeRecord(store, audit, prepared);
  const leftOut = audit.draft.entries.flatMap((entry) => {
    if (!entry.on) return [{ name: entry.name, reason: 'is off' }];
    return entry.kind === 'script' && !entry.works ? [{ name: entry.name, reason: entry.reason }] : [];
  });
  const costs = costLines(store, audit, prepared.costs, settings, record?.record ?? null);
  return {
    settings,
    targets: READY_TARGETS.map(({ id, title, about }) => ({ id, title, about })),
    server: maybeAnnounced(store, auditId),
    lists: targetOf(settings).capabilities.includes('extlists') ? listsInUse(audit.draft) : [],
    text: prepared.text,
    octets: prepared.octets,
    requires: prepared.requires,
    rules: prepared.chain.entries.filter((entry) => entry.on && (entry.kind === 'rule' || entry.works)).length,
    leftOut,
    folders: folderLines(prepared.folders, settings.choices.folders),
    blocks: audit.draft.entries.flatMap((entry) => (isFilingBlock(entry) ? [entry.name] : [])),
    costs,
    obstacles: obstaclesOf(prepared.beyond, costs),
    total: trafficSize(store, audit),
    stored: audit.storedCount,
    verification: record && viewOf(record, audit),
    gate: gateView(store, audit),
    handed: listHanded(store, auditId),
  };
}

function folderLines(folders: readonly string[], names: FolderNames): FolderLine[] {
  const missing = new Set(faultsOfNames(folders, names).missing);
  return folders.map((here) => {
    const there = nameThere(here, names);
    return { here, there, isMissing: missing.has(canonicalFolder(there)) };
  });
}

const isFilingBlock = (entry: ChainEntry): boolean =>
  entry.kind === 'script' && entry.on && entry.works && /\bfileinto\b/i.test(entry.text) && hasReferences(entry.text);

const listsInUse = (chain: Chain) =>
  (chain.lists ?? []).filter(({ id }) => usersOf(chain, id).length > 0).map(({ id, name }) => ({ id, name }));

function obstaclesOf(beyond: readonly string[], costs: readonly CostLine[]): string[] {
  const undecided = costs.filter(({ ways, decided }) => ways.length > 0 && decided === null);
  const open = costs.filter(({ accepted, none, ways }) => !accepted && !none && ways.length === 0);
  return [
    ...beyond,
    ...(undecided.length > 0 ? [`no decision yet for ${rulesWord(undecided.length)}`] : []),
    ...(open.length > 0 ? [`the differences of ${rulesWord(open.length)} are not accepted`] : []),
  ];
}

const rulesWord = (count: number): string => (count === 1 ? 'one rule' : `${count} rules`);

function costLines(
  store: Store,
  audit: Audit,
  costs: readonly Cost[],
  { accepted }: HandoverSettings,
  record: HandoverRecord | null,
): CostLine[] {
  const flow = maybeFlow(store, audit, audit.draft);
  return [...new Set(costs.map(({ id }) => id))].map((id): CostLine => {
    const own = costs.filter((cost) => cost.id === id);
    const weighed = record?.costs.find((cost) => cost.id === id);
    const keys = own.map(costKey);
    const unsayable = own.find(({ kind }) => kind === 'unsayable');
    return {
      id,
      name: own[0]?.name ?? '',
      words: own.map(({ words, without }) => (words.includes(without) ? words : `without ${without}: ${words}`)),
      ways: unsayable?.ways ?? [],
      decided: unsayable?.decided ?? null,
      accepted: keys.every((key) => accepted.includes(key)),
      keys,
      messages: weighed ? weighed.messages.length : null,
      sample: weighed
        ? messageRows(store, audit, flow, newest(store, audit, Bitmap.of(audit.messageCount, weighed.messages), SAMPLE))
        : [],
      none: weighed?.none ?? false,
    };
  });
}

/** The key of an acceptance: the rule and the sentence of the difference. */
const costKey = ({ id, without, words, decided }: Cost): string => [id, without, words, decided ?? ''].join(' | ');

function viewOf({ record, at, hash }: KeptRecord, audit: Audit): VerificationView {
  const { costs: _costs, undeclared, ...rest } = record;
  return {
    ...rest,
    undeclared: undeclared.length,
    checks: checksOf(record),
    verified: isVerified(record, audit.storedCount),
    at,
    hash,
  };
}

/** Whether the script may leave, and why not, in plain words. */
export type Standing =
  | { readonly is: 'ready'; readonly text: string; readonly requires: readonly string[] }
  /** This very script was never verified. */
  | { readonly is: 'not verified'; readonly why: string }
  | { readonly is: 'held back'; readonly why: string };

/**
 * The script for a download or a server may leave if this very script was verified, all its differences are accepted, and
 * expectations, probes and grave findings are in order or overridden.
 */
export function standingOfScript(store: Store, auditId: string): Standing {
  const { verification, obstacles, gate, text, requires } = exportView(store, auditId);
  const heldBack = (why: string): Standing => ({ is: 'held back', why });
  if (!verification) return { is: 'not verified', why: 'The script is not verified yet. Verify it first.' };
  if (!verification.verified) return heldBack('The script differs from the rules in more than the listed differences.');
  const [obstacle] = obstacles;
  if (obstacle !== undefined) return heldBack(`The script cannot be exported yet: ${obstacle}.`);
  if (!gate.isKnown) return heldBack('The rules are still being audited. Try again in a moment.');
  if (!isOpen(gate)) {
    const reasons = gate.reasons.join('; ');
    return heldBack(`The script is held back: ${reasons}. Repair that, or give a reason on the export page.`);
  }
  return { is: 'ready', text, requires };
}

/** The script, if it may leave; else a refusal. */
export function verifiedScript(store: Store, auditId: string): string {
  const standing = standingOfScript(store, auditId);
  if (standing.is !== 'ready') throw new Refusal(standing.why, 409);
  return standing.text;
}

/** The checks and their results, in plain words. */
export function checksOf(record: HandoverRecord): string[] {
  const { assumes, faults, messages, sameFate, madeUp, madeUpSame, exact, exactChanged, script, undeclared } = record;
  // A run of the script overrides any proof.
  const failed = faults.length > 0 || sameFate < messages || madeUpSame < madeUp;
  if (failed && script === 'equivalent') {
    return [
      ...checksOf({ ...record, script: 'undecided', exact: exact === 'equivalent' ? 'undecided' : exact }),
      'The proof found no difference, but running the script did, so nothing counts as proved.',
    ];
  }
  return [
    faults.length === 0 ? 'The script is valid Sieve.' : `The script has errors: ${faults.join('; ')}.`,
    `${figure(madeUpSame)} of ${counted(madeUp, 'message')}, including probes, have the same destination.`,
    script === 'equivalent'
      ? `${assuming('Proved: the script treats every possible message as written', assumes.script)}.`
      : script === 'different'
        ? 'The proof found a message that the script treats differently than written.'
        : 'Undecided whether the script treats every possible message as written.',
    exact === 'equivalent' && exactChanged === 0
      ? `${assuming('Proved: rules exported unchanged treat every possible message alike', assumes.exact)}.`
      : exactChanged > 0 || exact === 'different'
        ? 'Rules exported unchanged do not treat every message alike.'
        : 'Rules exported unchanged treat all stored messages alike; undecided for all others.',
    ...(undeclared.length > 0
      ? [`${counted(undeclared.length, 'message')} would have a different destination without a listed difference.`]
      : []),
  ];
}
