import type { Flow } from '../../core/flow/flow';
import type { Edit } from '../../core/rules/edit';
import type { Chain, ChainEntry } from '../../core/rules/rule';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { elementAt } from '../../core/text/lookup';
import { type Audit, getAudit } from '../audits/audits';
import { placesLine } from '../chain/destinations';
import { maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { history, previewEdits, stepsOf } from './changes';
import { movesBetween, movingOf } from './compare-destinations';
import { type Comparison, compareFlows } from './compare-flows';
import { type Broken, brokenBy } from './expectations';
import { maybeVerdict, type Verdict } from './verdicts';
import { type ChainRef, chainAt, chainName, listVersions, type Version } from './versions';

/** Two chains of an audit side by side. */
export interface ChangesView {
  readonly before: ChainRef;
  readonly after: ChainRef;
  readonly names: readonly [string, string];
  /** Null while one of them was not simulated. */
  readonly comparison: Comparison | null;
  /** Pairs of destinations without flags, with the destinations ordered by size. */
  readonly matrix: Matrix | null;
  /** Rules that act on changed messages in only one of the chains, most messages first. */
  readonly byRule: readonly { readonly id: string; readonly name: string; readonly count: number }[];
  /** Null while the proof was not attempted. */
  readonly verdict: Verdict | null;
  /** The chains as Sieve, if their texts differ. */
  readonly texts: readonly [string, string] | null;
  readonly history: readonly ChangeLine[];
  readonly versions: readonly Version[];
}

export interface Matrix {
  readonly from: readonly string[];
  readonly to: readonly string[];
  /** By the places in `from` and `to`. */
  readonly counts: readonly (readonly number[])[];
}

export interface ChangeLine {
  readonly id: number;
  readonly words: string;
  readonly why: string;
  readonly changedMessages: number;
  /** Of the messages whose fate differs from the imported chain, those affected by this change; null if unknown. */
  readonly responsible: number | null;
  readonly undone: boolean;
  readonly createdAt: number;
}

export function changesView(
  store: Store,
  auditId: string,
  before: ChainRef = 'baseline',
  after: ChainRef = 'draft',
): ChangesView {
  const audit = getAudit(store, auditId);
  const chains = [chainAt(store, audit, before), chainAt(store, audit, after)] as const;
  const [was, is] = [maybeFlow(store, audit, chains[0]), maybeFlow(store, audit, chains[1])];
  const texts = [sieveFromChain(chains[0]).text, sieveFromChain(chains[1]).text] as const;
  const usual = before === 'baseline' && after === 'draft';
  return {
    before,
    after,
    names: [chainName(store, auditId, before), chainName(store, auditId, after)],
    comparison: was && is && compareFlows(store, audit, was, is),
    matrix: was && is && matrixOf(was, is),
    byRule: was && is ? ruleLines(was, is) : [],
    verdict: maybeVerdict(store, audit, ...chains),
    texts: texts[0] === texts[1] ? null : texts,
    history: historyLines(store, audit, usual ? [was, is] : null),
    versions: listVersions(store, auditId),
  };
}

/** Destinations beyond this number are combined as “others”. */
const MOST_PLACES = 12;
const OTHERS = 'elsewhere';

function matrixOf(before: Flow, after: Flow): Matrix {
  const moves = movesBetween(before, after, after.fates.differsFrom(before.fates).members(), placesLine);
  const [from, to] = [placesBy(moves, 'from'), placesBy(moves, 'to')];
  const counts = from.map(() => to.map(() => 0));
  const at = (places: readonly string[], place: string) => {
    const found = places.indexOf(place);
    return found < 0 ? places.length - 1 : found;
  };
  for (const move of moves) {
    const row = elementAt(counts, at(from, move.from));
    const column = at(to, move.to);
    row[column] = (row[column] ?? 0) + move.count;
  }
  return { from, to, counts };
}

function placesBy(moves: ReturnType<typeof movesBetween>, side: 'from' | 'to'): string[] {
  const sums = new Map<string, number>();
  for (const move of moves) sums.set(move[side], (sums.get(move[side]) ?? 0) + move.count);
  const places = [...sums].sort(([, a], [, b]) => b - a).map(([place]) => place);
  return places.length <= MOST_PLACES ? places : [...places.slice(0, MOST_PLACES - 1), OTHERS];
}

function ruleLines(before: Flow, after: Flow) {
  const changed = after.fates.differsFrom(before.fates);
  if (changed.isEmpty()) return [];
  const names = new Map([...before.entries, ...after.entries].map(({ entry }) => [entry.id, entry.name]));
  return [...names]
    .map(([id, name]) => ({ id, name, count: movingOf(before, after, id, changed).count() }))
    .filter(({ count }) => count > 0)
    .sort((a, b) => b.count - a.count);
}

/** Beyond this number of changes, their messages are not attributed. */
const MOST_STEPS = 60;

function historyLines(
  store: Store,
  audit: Audit,
  flows: readonly [Flow | null, Flow | null] | null,
): readonly ChangeLine[] {
  const rows = history(store, audit.id);
  const responsible = new Map<number, number>();
  if (flows?.[0] && flows[1] && rows.length <= MOST_STEPS) {
    const changed = flows[1].fates.differsFrom(flows[0].fates);
    let before: Flow | null = flows[0];
    for (const { id, chain } of stepsOf(store, audit)) {
      const after = maybeFlow(store, audit, chain);
      if (id !== null && before && after) {
        responsible.set(id, after.fates.differsFrom(before.fates).and(changed).count());
      }
      before = after;
    }
  }
  return rows.map(({ id, words, why, changedMessages, undone, createdAt }) => {
    return { id, words, why, changedMessages, responsible: responsible.get(id) ?? null, undone, createdAt };
  });
}

/** The effect of edits that are not made yet, in the same form as that of changes. */
export interface PreviewView {
  readonly words: string;
  readonly comparison: Comparison | null;
  /** The rules that it rewrites, as Sieve before and after; null if it rewrites none. */
  readonly texts: readonly [string, string] | null;
  /** Expectations it would break, as far as known without a job; they block the change. */
  readonly broken: readonly Broken[];
}

export function previewView(store: Store, auditId: string, edits: readonly Edit[]): PreviewView {
  const audit = getAudit(store, auditId);
  const { words, after, flows } = previewEdits(store, audit, edits);
  const [now, then] = flows;
  const texts = textsOf(audit.draft, after);
  if (!now || !then) return { words, texts, comparison: null, broken: [] };
  return {
    words,
    texts,
    comparison: compareFlows(store, audit, now, then),
    broken: brokenBy(store, audit, after, flows, 'known'),
  };
}

/** The entries that differ, as scripts. */
function textsOf(before: Chain, after: Chain): readonly [string, string] | null {
  const [old, fresh] = [new Set(before.entries), new Set(after.entries)];
  const differing = ({ entries }: Chain, others: ReadonlySet<ChainEntry>) => entries.filter((one) => !others.has(one));
  const [was, is] = [differing(before, fresh), differing(after, old)].map((entries) => {
    // The first of linked rules may be unchanged.
    const unlinked = entries.map((entry) => (entry.kind === 'rule' ? { ...entry, link: 'always' as const } : entry));
    return sieveFromChain({ entries: unlinked, closing: '' }).text;
  });
  return was === undefined || is === undefined || was === is ? null : [was, is];
}
