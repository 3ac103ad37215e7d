import type { Diagnostic } from '../sieve/diagnostics';
import { elementAt } from '../text/lookup';
import type { Span } from '../text/span';
import { type Edit, runsOf } from './edit';
import { chainFromSieve } from './from-sieve';
import { unmarked } from './marks';
import type { Chain, ChainEntry } from './rule';
import { sameEntry } from './same';
import { sieveFromChain } from './to-sieve';

export type RewriteEdit = Extract<Edit, { kind: 'rewrite' }>;

/** The result of editing part of a chain as text. */
export interface Rewritten {
  readonly diagnostics: readonly Diagnostic[];
  /** The entries of the text alone, with their spans. */
  readonly entries: readonly { readonly entry: ChainEntry; readonly place: Span }[];
  /** The edit of the chain; null if nothing changes. */
  readonly edit: RewriteEdit | null;
}

/** The ids edited together with a rule: its run; null if there is no such rule. */
export function maybeRunOf(chain: Chain, id: string): readonly string[] | null {
  const run = runsOf(chain).find((entries) => entries.some((entry) => entry.id === id));
  return run ? run.map((entry) => entry.id) : null;
}

/** The text of part of a chain, given by ids, or of all of it. */
export function editingText(chain: Chain, ids: readonly string[] | null): string {
  const entries = ids ? chain.entries.filter(({ id }) => ids.includes(id)) : chain.entries;
  return sieveFromChain({ entries, closing: ids ? '' : chain.closing }, 'editing').text;
}

/**
 * Reads an edited text. A part is read alone and put in its place; if its effect reaches further, such as an edited
 * header that later rules test, these rules become part of it.
 */
export function readRewrite(chain: Chain, ids: readonly string[] | null, text: string): Rewritten {
  const { chain: said, places, diagnostics } = chainFromSieve(text);
  const entries = said.entries.map(unmarkedEntry);
  const from = ids ? chain.entries.findIndex(({ id }) => id === ids[0]) : 0;
  const count = ids ? ids.length : chain.entries.length;
  if (from < 0) throw new Error(`there is no entry ${ids?.[0]}`);
  const closing = ids ? [chain.closing, said.closing].filter((part) => part !== '').join('\n') : said.closing;
  const placed = [...chain.entries.slice(0, from), ...entries, ...chain.entries.slice(from + count)];
  const whole = settled({ entries: placed, closing });
  return {
    diagnostics,
    entries: entries.map((entry, index) => ({ entry, place: elementAt(places, index) })),
    edit: text === editingText(chain, ids) ? null : rewriteInto(chain, whole),
  };
}

function unmarkedEntry(entry: ChainEntry): ChainEntry {
  return { ...entry, ...unmarked(entry.name) };
}

/** The chain as it reads back once written: dependent parts are one script block then. */
function settled(chain: Chain): Chain {
  const working = chain.entries.filter((entry) => entry.kind === 'rule' || entry.works);
  const read = chainFromSieve(sieveFromChain({ ...chain, entries: working }, 'editing').text).chain.entries;
  const again = read.map(unmarkedEntry);
  const same = again.length === working.length && again.every((entry, at) => sameEntry(entry, elementAt(working, at)));
  if (same) return chain;
  // Text that is not understood does nothing, so it may be at the end.
  const faulty = chain.entries.filter((entry) => entry.kind === 'script' && !entry.works);
  return { ...chain, entries: [...again, ...faulty] };
}

function rewriteInto(chain: Chain, whole: Chain): RewriteEdit | null {
  const [old, made] = [chain.entries, whole.entries];
  let from = 0;
  while (from < old.length && from < made.length && sameEntry(elementAt(old, from), elementAt(made, from))) from++;
  let behind = 0;
  const most = Math.min(old.length, made.length) - from;
  while (behind < most && sameEntry(elementAt(old, old.length - 1 - behind), elementAt(made, made.length - 1 - behind)))
    behind++;
  const before = old.slice(from, old.length - behind);
  const after = named(chain, before, made.slice(from, made.length - behind));
  if (before.length === 0 && after.length === 0 && chain.closing === whole.closing) return null;
  return { kind: 'rewrite', from, before, after, closing: { before: chain.closing, after: whole.closing } };
}

/** Entries that are equal, or at least have the same name, keep their ids; others get new ones. */
function named(chain: Chain, before: readonly ChainEntry[], after: readonly ChainEntry[]): ChainEntry[] {
  const left = [...before];
  const taken = new Set<string>();
  const claim = (found: number): string | null => {
    const entry = found >= 0 ? left.splice(found, 1)[0] : undefined;
    return entry?.id ?? null;
  };
  const same = after.map((entry) => claim(left.findIndex((old) => sameEntry(old, entry))));
  const ids = after.map((entry, at) => same[at] ?? claim(left.findIndex((old) => old.name === entry.name)));
  for (const { id } of chain.entries) taken.add(id);
  let next = 1;
  return after.map((entry, at): ChainEntry => {
    const kept = ids[at];
    if (kept) return { ...entry, id: kept };
    // Ids of the form r1 are reserved for imported scripts.
    while (taken.has(`n${next}`)) next++;
    taken.add(`n${next}`);
    return { ...entry, id: `n${next}` };
  });
}
