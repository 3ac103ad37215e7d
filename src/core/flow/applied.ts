import type { Action, Chain, ChainEntry } from '../rules/rule';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';
import { Bitmap } from './bitmap';
import type { Flow } from './flow';

/** The inbox where a rule files into it by name, which moves a message there, while keep leaves it where it is. */
const NAMED_INBOX = '\u0000inbox';

/**
 * A chain as it is applied to stored mail, or one rule of it as if there were no other; that rule may be off. What is
 * only kept stays in the folder where it is (RFC 6785 section 4, from memory).
 */
export function appliedChain(chain: Chain, rule: string | null): Chain {
  const entries = rule === null ? chain.entries : chain.entries.filter(({ id }) => id === rule).map(alone);
  return { ...chain, entries: entries.map(namingInbox) };
}

const alone = (entry: ChainEntry): ChainEntry =>
  entry.kind === 'script' ? { ...entry, on: true } : { ...entry, on: true, link: 'always' };

function namingInbox(entry: ChainEntry): ChainEntry {
  if (entry.kind === 'script' || !entry.actions.some(isIntoInbox)) return entry;
  return {
    ...entry,
    actions: entry.actions.map((action) => (isIntoInbox(action) ? { ...action, folder: NAMED_INBOX } : action)),
  };
}

const isIntoInbox = (action: Action): action is Action & { action: 'fileinto' } =>
  action.action === 'fileinto' && canonicalFolder(action.folder) === INBOX;

/** Where stored messages are before and after a chain is applied to some of them. */
export interface Applied {
  /** Those to which it is applied. */
  readonly taken: Bitmap;
  /** By place; a message may be in several. */
  readonly before: ReadonlyMap<string, Bitmap>;
  readonly after: ReadonlyMap<string, Bitmap>;
  /** Those that are in no place any more: discarded, rejected, or only redirected. */
  readonly gone: Bitmap;
  /** By place and flag (in lower case), those that get the flag there. */
  readonly flags: ReadonlyMap<string, ReadonlyMap<string, Bitmap>>;
}

/**
 * Applies a chain to messages of some places. `flow` is that of `appliedChain`; `inbox` applies it to what the inbox
 * holds, and leaves what these messages have in other places; `all` moves them from every place.
 */
export function applied(
  flow: Flow,
  before: ReadonlyMap<string, Bitmap>,
  mail: 'inbox' | 'all',
  among: Bitmap,
): Applied {
  const { folders } = flow.fates;
  const none = new Bitmap(flow.count);
  const isFrom = (place: string) => mail === 'all' || place === INBOX;
  const held = [...before].flatMap(([place, messages]) => (isFrom(place) ? [messages] : []));
  const taken = union(held, flow.count).and(among).and(flow.fates.traffic);
  const kept = folders.get(INBOX);
  const targets = [...folders.keys()].filter((folder) => folder !== INBOX);
  const after = new Map<string, Bitmap>();
  const flags = new Map<string, Map<string, Bitmap>>();
  const moving = taken.without(kept?.messages ?? none);
  for (const place of new Set([...before.keys(), ...targets.map(placeOf)])) {
    const here = before.get(place) ?? none;
    const into = folders.get(place === INBOX ? NAMED_INBOX : place);
    const staying = isFrom(place) ? here.without(moving) : here;
    const come = into?.messages.and(taken) ?? none;
    const there = staying.or(come);
    // Most folders of a chain receive nothing when one rule is applied, or the inbox alone.
    if (!before.has(place) && there.isEmpty()) continue;
    after.set(place, there);
    const own = new Map<string, Bitmap>();
    const mark = (marks: ReadonlyMap<string, Bitmap> | undefined, where: Bitmap) => {
      for (const [flag, held] of marks ?? []) {
        const marked = held.and(where);
        if (!marked.isEmpty()) own.set(flag, own.get(flag)?.or(marked) ?? marked);
      }
    };
    mark(into?.flags, come);
    if (isFrom(place)) mark(kept?.flags, staying.and(taken));
    flags.set(place, own);
  }
  const gone = taken.without(union([...after.values()], flow.count));
  return { taken, before, after, gone, flags };
}

const placeOf = (folder: string): string => (folder === NAMED_INBOX ? INBOX : folder);

function union(sets: readonly Bitmap[], count: number): Bitmap {
  const all = new Bitmap(count);
  for (const set of sets) all.addEvery(set);
  return all;
}

/** What was there, less what left, plus what came, is what is there. */
export interface Balance {
  readonly before: number;
  readonly left: number;
  readonly came: number;
  readonly after: number;
}

export function balanceOf(before: Bitmap, after: Bitmap): Balance {
  return {
    before: before.count(),
    left: before.without(after).count(),
    came: after.without(before).count(),
    after: after.count(),
  };
}
