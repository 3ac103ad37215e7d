import { accountOf, forAccount, isUpToDate, listsWith, usersOf, withKeys } from './lists';
import { contradictionsIn, type Profile, withProfile } from './profile';
import type { Chain, ChainEntry, Ending, Link, NamedList } from './rule';
import { isSame } from './same';

/** One change to a chain, as data. It names what it expects to find, so it is refused on another chain. */
export type Edit =
  /**
   * `from` and `to` are indexes among all entries; `to` is that of the first moved entry afterwards. Within a linked
   * run the links stay with the positions: whichever rule comes first is always tried.
   */
  | {
      readonly kind: 'move';
      readonly ids: readonly string[];
      readonly from: number;
      readonly to: number;
      readonly withinRun: boolean;
    }
  | { readonly kind: 'switch'; readonly id: string; readonly on: boolean }
  | { readonly kind: 'ending'; readonly id: string; readonly from: Ending; readonly to: Ending }
  /** Whether a rule concerns one account, by its address, or all of them: null. */
  | { readonly kind: 'account'; readonly id: string; readonly from: string | null; readonly to: string | null }
  /** A named list made, changed or, where no test uses it, given up; its keys change in all tests that use it. */
  | { readonly kind: 'list'; readonly id: string; readonly from: NamedList | null; readonly to: NamedList | null }
  /** How the program that the rules are in runs them; null: as Sieve does. */
  | { readonly kind: 'profile'; readonly from: Profile | null; readonly to: Profile | null }
  /** `after` takes the place of `before`, which begins at `from`; ids stay unique in the chain. What a script that
   * is brought in later adds to the closing comments stays behind them.
   */
  | {
      readonly kind: 'rewrite';
      readonly from: number;
      readonly before: readonly ChainEntry[];
      readonly after: readonly ChainEntry[];
      readonly closing: { readonly before: string; readonly after: string };
    };

export type Applied = { readonly ok: true; readonly chain: Chain } | { readonly ok: false; readonly reason: string };

/** Applies an edit, or returns why the chain is not the one it was made for. */
export function applyEdit(chain: Chain, edit: Edit): Applied {
  switch (edit.kind) {
    case 'move':
      return moveEntries(chain, edit);
    case 'switch':
      return change(chain, edit.id, (entry) =>
        entry.on === edit.on ? `“${entry.name}” is already ${edit.on ? 'on' : 'off'}` : { ...entry, on: edit.on },
      );
    case 'ending':
      return change(chain, edit.id, (entry) => {
        if (entry.kind === 'script') return `“${entry.name}” is a script block and has no ending of its own`;
        return entry.ending === edit.from
          ? { ...entry, ending: edit.to }
          : `“${entry.name}” no longer has the ending this change was made for`;
      });
    case 'account':
      return change(chain, edit.id, (entry) => {
        if (entry.kind === 'script') return `“${entry.name}” is a script block, which names its own addresses`;
        return accountOf(entry) === edit.from
          ? forAccount(entry, edit.to)
          : `“${entry.name}” no longer has the account this change was made for`;
      });
    case 'list':
      return changeList(chain, edit);
    case 'profile':
      return changeProfile(chain, edit);
    case 'rewrite':
      return rewriteEntries(chain, edit);
    default:
      edit satisfies never;
      throw new Error('unknown edit');
  }
}

export function applyEdits(chain: Chain, edits: readonly Edit[]): Applied {
  let current = chain;
  for (const edit of edits) {
    const applied = applyEdit(current, edit);
    if (!applied.ok) return applied;
    current = applied.chain;
  }
  return { ok: true, chain: current };
}

/** The inverse of an edit, for the chain that results from it. */
export function invertEdit(edit: Edit): Edit {
  switch (edit.kind) {
    case 'move':
      return { ...edit, from: edit.to, to: edit.from };
    case 'switch':
      return { ...edit, on: !edit.on };
    case 'ending':
      return { ...edit, from: edit.to, to: edit.from };
    case 'account':
      return { ...edit, from: edit.to, to: edit.from };
    case 'list':
      return { ...edit, from: edit.to, to: edit.from };
    case 'profile':
      return { ...edit, from: edit.to, to: edit.from };
    case 'rewrite': {
      const closing = { before: edit.closing.after, after: edit.closing.before };
      return { ...edit, before: edit.after, after: edit.before, closing };
    }
    default:
      edit satisfies never;
      throw new Error('unknown edit');
  }
}

/** The ids of the entries that an edit names; none for one about a list, or about how rules are run. */
export function idsIn(edit: Edit): readonly string[] {
  switch (edit.kind) {
    case 'move':
      return edit.ids;
    case 'switch':
    case 'ending':
    case 'account':
      return [edit.id];
    case 'list':
    case 'profile':
      return [];
    case 'rewrite':
      return [...edit.before, ...edit.after].map(({ id }) => id);
    default:
      edit satisfies never;
      throw new Error('unknown edit');
  }
}

/** The parts of an entry that restrict its position. */
export interface Placed {
  readonly id: string;
  readonly kind: ChainEntry['kind'];
  /** A script block has none. */
  readonly link?: Link;
}

/**
 * The edit that moves a rule directly before the entry `before`, or to the end if null. Null if it is already there. A
 * rule of a linked run moves with the whole run, unless it only changes its position within the run; no run is split:
 * the target is then before that run.
 */
export function moveBefore(
  chain: { readonly entries: readonly Placed[] },
  id: string,
  before: string | null,
): Edit | null {
  const { entries } = chain;
  const run = runWith(entries, id);
  if (!run) return null;
  const target = before === null ? { from: entries.length } : runWith(entries, before);
  if (!target) return null;
  if (target.from === run.from) return moveWithinRun(chain, id, before);
  const { from, end } = run;
  // As counted once the run is taken out.
  const to = target.from > from ? target.from - (end - from) : target.from;
  const ids = entries.slice(from, end).map((entry) => entry.id);
  return to === from ? null : { kind: 'move', ids, from, to, withinRun: false };
}

/** Where the linked run that an entry is part of begins and ends; null if there is no such entry. */
export function runWith(
  entries: readonly Placed[],
  id: string,
): { readonly from: number; readonly end: number } | null {
  const place = entries.findIndex((entry) => entry.id === id);
  if (place < 0) return null;
  let [from, end] = [place, place + 1];
  while (isLinked(entries, from)) from--;
  while (isLinked(entries, end)) end++;
  return { from, end };
}

/** Whether the entry at a place belongs to the run of the one before it. */
function isLinked(entries: readonly Placed[], place: number): boolean {
  const [before, entry] = [entries[place - 1], entries[place]];
  return entry?.kind === 'rule' && entry.link === 'otherwise' && before?.kind === 'rule';
}

function moveWithinRun(chain: { readonly entries: readonly Placed[] }, id: string, before: string | null): Edit | null {
  const from = chain.entries.findIndex((entry) => entry.id === id);
  const rest = chain.entries.filter((entry) => entry.id !== id);
  const to = rest.findIndex((entry) => entry.id === before);
  return to < 0 || to === from ? null : { kind: 'move', ids: [id], from, to, withinRun: true };
}

/** The edit that removes an entry. A rule linked to it becomes the head of the run. */
export function removal(chain: Chain, entry: ChainEntry): Edit {
  const from = chain.entries.findIndex(({ id }) => id === entry.id);
  const next = chain.entries[from + 1];
  const heads = entry.kind === 'rule' && entry.link === 'always' && next?.kind === 'rule' && next.link === 'otherwise';
  return heads ? rewriting(from, [entry, next], [{ ...next, link: 'always' }]) : rewriting(from, [entry], []);
}

/** The edit that replaces some entries by others and keeps the closing comments. */
export function rewriting(from: number, before: readonly ChainEntry[], after: readonly ChainEntry[]): Edit {
  return { kind: 'rewrite', from, before, after, closing: { before: '', after: '' } };
}

/** Entries that cannot be separated: a rule with the `otherwise` rules after it, else one entry. */
export function runsOf<Entry extends Placed>(chain: { readonly entries: readonly Entry[] }): Entry[][] {
  const runs: Entry[][] = [];
  for (const entry of chain.entries) {
    const last = runs[runs.length - 1];
    const linked = entry.kind === 'rule' && entry.link === 'otherwise' && last?.[0]?.kind === 'rule';
    if (linked) last.push(entry);
    else runs.push([entry]);
  }
  return runs;
}

/** Whether the entries from `place` + 1 to `later` are all linked to the one at `place`. */
export function inRunOf(entries: readonly ChainEntry[], place: number, later: number): boolean {
  return entries.slice(place + 1, later + 1).every((entry) => entry.kind === 'rule' && entry.link === 'otherwise');
}

/** What was imported is run like the draft, so this applies however the rules are run so far. */
function changeProfile(chain: Chain, { to }: Extract<Edit, { kind: 'profile' }>): Applied {
  const [why] = to ? contradictionsIn(to) : [];
  return why === undefined ? { ok: true, chain: withProfile(chain, to) } : { ok: false, reason: why };
}

function moveEntries(chain: Chain, edit: Extract<Edit, { kind: 'move' }>): Applied {
  const { entries } = chain;
  const moving = entries.slice(edit.from, edit.from + edit.ids.length);
  if (moving.length !== edit.ids.length || moving.some((entry, index) => entry.id !== edit.ids[index])) {
    return { ok: false, reason: 'the rules to be moved are no longer where they were when this change was made' };
  }
  const rest = [...entries.slice(0, edit.from), ...entries.slice(edit.from + edit.ids.length)];
  if (edit.to < 0 || edit.to > rest.length) return { ok: false, reason: 'the chain has no such place' };
  const moved = [...rest.slice(0, edit.to), ...moving, ...rest.slice(edit.to)];
  return { ok: true, chain: { ...chain, entries: edit.withinRun ? relinked(moved, entries) : moved } };
}

function rewriteEntries(chain: Chain, edit: Extract<Edit, { kind: 'rewrite' }>): Applied {
  const { entries } = chain;
  const end = edit.from + edit.before.length;
  const there = entries.slice(edit.from, end);
  const { closing } = edit;
  if (edit.from > entries.length || !isSame(there, edit.before) || !chain.closing.startsWith(closing.before)) {
    return { ok: false, reason: 'the rule to be rewritten has changed since this change was made' };
  }
  const made = [...entries.slice(0, edit.from), ...edit.after, ...entries.slice(end)];
  if (addsSameId(chain, edit)) return { ok: false, reason: 'two rules would have the same id' };
  const stale = edit.after.find((entry) => entry.kind === 'rule' && !isUpToDate(entry, chain.lists ?? []));
  if (stale) return { ok: false, reason: `a named list that “${stale.name}” uses was changed or deleted meanwhile` };
  const rest = chain.closing.slice(closing.before.length).replace(/^\n/, '');
  const after = [closing.after, rest].filter((part) => part !== '').join('\n');
  return { ok: true, chain: { ...chain, entries: made, closing: after } };
}

/** Only ids that were not there before can be those of other entries. */
function addsSameId({ entries }: Chain, { before, after }: Extract<Edit, { kind: 'rewrite' }>): boolean {
  const ids = new Set(after.map(({ id }) => id));
  if (ids.size < after.length) return true;
  for (const { id } of before) ids.delete(id);
  return ids.size > 0 && entries.some(({ id }) => ids.has(id));
}

function changeList(chain: Chain, { id, from, to }: Extract<Edit, { kind: 'list' }>): Applied {
  const there = chain.lists?.find((list) => list.id === id) ?? null;
  if (!isSame(there, from)) return { ok: false, reason: 'the list has changed since this change was made' };
  const [user] = usersOf(chain, id);
  if (user && (to === null || to.keys.length === 0)) {
    return { ok: false, reason: `“${user.name}” uses the list, so it cannot be emptied or deleted` };
  }
  const lists = listsWith(chain.lists ?? [], id, to);
  const entries = to
    ? chain.entries.map((entry) => (entry.kind === 'rule' ? withKeys(entry, to) : entry))
    : chain.entries;
  return { ok: true, chain: { ...chain, entries, lists } };
}

function relinked(moved: readonly ChainEntry[], before: readonly ChainEntry[]): ChainEntry[] {
  return moved.map((entry, place) => {
    const there = before[place];
    if (entry.kind === 'script' || there?.kind !== 'rule' || entry.link === there.link) return entry;
    return { ...entry, link: there.link };
  });
}

function change(chain: Chain, id: string, make: (entry: ChainEntry) => ChainEntry | string): Applied {
  const at = chain.entries.findIndex((entry) => entry.id === id);
  const entry = chain.entries[at];
  if (!entry) return { ok: false, reason: 'the rule of this change is no longer in the chain' };
  const made = make(entry);
  if (typeof made === 'string') return { ok: false, reason: made };
  return { ok: true, chain: { ...chain, entries: chain.entries.with(at, made) } };
}
