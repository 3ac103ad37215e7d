import type { Statement } from '../../core/audit/finding';
import { isConfirmed } from '../../core/audit/grouping';
import type { FindingKind } from '../../core/audit/kind-words';
import type { EntryFlow } from '../../core/flow/flow';
import { accountOf } from '../../core/rules/lists';
import { type Profile, profileOf } from '../../core/rules/profile';
import { type ChainEntry, conditionOf, type Ending, type Link, leavesOf } from '../../core/rules/rule';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { getAudit, maybeAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { findingsAtHand } from '../findings/set-aside';
import { sentMessages, trafficSize, unreadMessages } from '../mail/traffic';
import { type Destination, destinationsOf, targetsOf } from './destinations';
import { type ShownOutline, shown, shownOutline, shownSentence } from './shortened';
import { maybeFlow } from './simulation';

export interface ChainView {
  /** False while tests are missing; counts are null then. */
  readonly simulated: boolean;
  /** Messages that run through the chain. */
  readonly total: number;
  /** Messages that the user sent, and whether they are included. */
  readonly sent: number;
  readonly withSent: boolean;
  readonly rungs: readonly Rung[];
  /**
   * The current date that rules see, if some rule tests it, in milliseconds since 1970; null for the time when each
   * message arrived.
   */
  readonly clock: { readonly time: number | null } | null;
  /** The user's own addresses. */
  readonly accounts: readonly string[];
  readonly destinations: readonly Destination[];
  /** Messages that no rule stops, and those the implicit keep leaves in the inbox. */
  readonly foot: { readonly left: number; readonly implicitKeep: number } | null;
}

export interface Rung {
  readonly id: string;
  readonly place: number;
  readonly name: string;
  readonly note: string;
  readonly tags: readonly string[];
  readonly kind: 'rule' | 'script';
  readonly on: boolean;
  readonly works: boolean;
  readonly ending: Ending | null;
  readonly link: Link;
  /** The account it applies to; null for all. */
  readonly account: string | null;
  readonly sentence: string;
  readonly outline: ShownOutline;
  /** The entry as Sieve. */
  readonly text: string;
  readonly targets: readonly string[];
  /** The first sender that its tests name, in lower case, or empty. */
  readonly sender: string;
  /** One word for what a rule does that files mail nowhere. */
  readonly deed: string;
  readonly counts: RungCounts | null;
  /** Findings about the rule, each with the names of the other rules involved. */
  readonly findings: readonly {
    readonly key: string;
    readonly kind: FindingKind;
    readonly others: readonly string[];
  }[];
}

export interface RungCounts {
  /** Messages that no earlier rule stopped: the width of the stream. */
  readonly passing: number;
  readonly reached: number;
  readonly held: number;
  readonly exempt: number;
  readonly fired: number;
  readonly stopped: number;
}

/** The chain as a ladder, with the flow of the stored mail. */
export function chainView(store: Store, auditId: string): ChainView {
  const audit = getAudit(store, auditId);
  const { draft } = audit;
  const flow = maybeFlow(store, audit, draft);
  const findings = findingsAtHand(store, audit).filter(isConfirmed);
  const names = new Map(draft.entries.map((entry) => [entry.id, entry.name]));
  const naming = new Map<string, Statement[]>(draft.entries.map(({ id }) => [id, []]));
  for (const finding of findings) for (const id of finding.rules) naming.get(id)?.push(finding);
  const total = trafficSize(store, audit);
  let ended = 0;
  const rungs = draft.entries.map((entry, place): Rung => {
    const own = flow?.entries[place];
    const counted = own ? countsOf(own) : null;
    const passing = total - ended;
    ended += counted?.stopped ?? 0;
    return {
      ...describedOnce(entry, profileOf(draft)),
      place,
      counts: counted && { passing, ...counted },
      findings: (naming.get(entry.id) ?? []).map(({ key, kind, rules }) => {
        return { key, kind, others: rules.filter((id) => id !== entry.id).map((id) => names.get(id) ?? '') };
      }),
    };
  });
  return {
    simulated: flow !== null,
    total,
    sent: audit.withSent ? sentMessages(store, audit).length : audit.storedCount - total,
    withSent: audit.withSent,
    rungs,
    clock: draft.entries.some(asksForTime) ? { time: audit.clock.fixed } : null,
    accounts: audit.ownAddresses,
    destinations: destinationsOf(draft, flow, unreadMessages(store, audit)),
    foot: flow && { left: total - ended, implicitKeep: flow.fates.implicitKeep.count() },
  };
}

/** The first rungs of a chain, as the opening page shows what an audit is. */
export interface GlimpseView {
  readonly auditId: string;
  readonly total: number;
  /** How many rules the chain has. */
  readonly rules: number;
  readonly rungs: readonly Pick<Rung, 'id' | 'name' | 'sentence' | 'targets' | 'counts'>[];
  /** Messages that pass the last of these rungs. */
  readonly left: number;
  readonly destinations: readonly Destination[];
}

/** Null if there is no such audit, or it is not simulated. */
export function maybeGlimpse(store: Store, auditId: string, rungs: number): GlimpseView | null {
  if (maybeAudit(store, auditId) === null) return null;
  const view = chainView(store, auditId);
  const { simulated, total, destinations, foot } = view;
  if (!simulated || total === 0) return null;
  const first = view.rungs.slice(0, rungs).map(({ id, name, sentence, targets, counts }) => {
    return { id, name, sentence, targets, counts };
  });
  const left = view.rungs[rungs]?.counts?.passing ?? foot?.left ?? 0;
  return { auditId, total, rules: view.rungs.length, rungs: first, left, destinations };
}

/** What other pages need of a chain: its destinations and the names of its rules. */
export interface ChainOutline {
  readonly simulated: boolean;
  readonly destinations: readonly Destination[];
  readonly rules: readonly { readonly id: string; readonly name: string }[];
}

export function chainOutline(store: Store, auditId: string): ChainOutline {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  return {
    simulated: flow !== null,
    destinations: destinationsOf(audit.draft, flow, unreadMessages(store, audit)),
    rules: audit.draft.entries.map(({ id, name }, place) => ({ id, name: `${place + 1} ${name}` })),
  };
}

/** Whether an entry tests the current date. */
function asksForTime(entry: ChainEntry): boolean {
  if (entry.kind === 'script') return /\bcurrentdate\b/i.test(entry.text);
  return leavesOf(conditionOf(entry)).some((leaf) => leaf.test === 'compared' && leaf.subject.of === 'currentdate');
}

type Counts = NonNullable<Rung['counts']>;

/** Counting the messages of hundreds of rules takes longer than caching the counts. */
const counted = new WeakMap<EntryFlow, Omit<Counts, 'passing'>>();

function countsOf(own: EntryFlow): Omit<Counts, 'passing'> {
  const known = counted.get(own);
  if (known) return known;
  const counts = {
    reached: own.reached.count(),
    held: own.held.count(),
    exempt: own.exempt.count(),
    fired: own.fired.count(),
    stopped: own.stopped.count(),
  };
  counted.set(own, counts);
  return counts;
}

/** A word for an entry without a destination. */
function deedOf(entry: ChainEntry): string {
  if (entry.kind === 'script') return entry.works ? 'as the script says' : 'is not run';
  const names = entry.actions.map(({ action }) => action);
  if (names.some((name) => /^e?reject$/.test(name))) return 'rejects';
  if (names.includes('vacation')) return 'answers';
  if (names.includes('notify')) return 'notifies';
  if (names.some((name) => /flag$/.test(name))) return 'marks';
  return entry.ending === 'stop' ? 'ends' : 'does nothing';
}

const SENDER_FIELDS = /^(from|sender|reply-to|return-path)$/i;

function senderOf(entry: ChainEntry): string {
  if (entry.kind === 'script') return '';
  for (const leaf of leavesOf(entry.tests)) {
    const bySender =
      leaf.test === 'envelope'
        ? leaf.parts.includes('from')
        : (leaf.test === 'address' || leaf.test === 'header') && leaf.headers.some((name) => SENDER_FIELDS.test(name));
    if (bySender && 'keys' in leaf && leaf.keys[0] !== undefined) return leaf.keys[0].toLowerCase();
  }
  return '';
}

type Described = Omit<Rung, 'place' | 'counts' | 'findings'>;

/** The words of an entry depend neither on its place nor on the mail. */
const described = new WeakMap<ChainEntry, { readonly profile: Profile | undefined; readonly words: Described }>();

function describedOnce(entry: ChainEntry, profile: Profile | undefined): Described {
  const known = described.get(entry);
  if (known && known.profile === profile) return known.words;
  const words = describing(entry, profile);
  described.set(entry, { profile, words });
  return words;
}

/** Characters of an entry as Sieve; the script page shows all of it. */
const SHOWN_SIEVE = 20_000;

function describing(entry: ChainEntry, profile: Profile | undefined): Described {
  const { id, name, note, kind, on } = entry;
  const alone = { entries: [{ ...entry, on: true, note: '' }], closing: '', ...(profile ? { profile } : {}) };
  return {
    id,
    name,
    note,
    tags: entry.kind === 'rule' ? (entry.tags ?? []) : [],
    kind,
    on,
    works: entry.kind === 'rule' || entry.works,
    ending: entry.kind === 'rule' ? entry.ending : null,
    link: entry.kind === 'rule' ? entry.link : 'always',
    account: entry.kind === 'rule' ? accountOf(entry) : null,
    sentence: shownSentence(entry, profile),
    outline: shownOutline(entry, profile),
    text: shown(entry.kind === 'script' ? entry.text : sieveFromChain(alone).text, SHOWN_SIEVE),
    targets: targetsOf(entry),
    sender: senderOf(entry),
    deed: deedOf(entry),
  };
}
