import type { Chain } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import { Bitmap } from './bitmap';
import type { AtomBitmaps } from './conditions';
import { type Flow, runFlow } from './flow';

/** Why a message does not reach the inbox. */
export interface Absence {
  /**
   * The minimal sets of entries, by id, that bring it there when switched off, smallest first. Empty if there are none.
   */
  readonly sets: readonly (readonly string[])[];
  /** Whether the search was complete. */
  readonly complete: boolean;
}

/** The most chains run for one message. */
const MOST_RUNS = 2000;
const MOST_SETS = 20;

/**
 * Finds what keeps a message out of the inbox; null if it reaches it. Only firing entries matter, since switching off
 * others changes nothing. So firing entries are switched off one by one, then those firing as a result, smaller sets
 * first.
 */
export function whyAbsent(chain: Chain, atoms: AtomBitmaps, message: number): Absence | null {
  const own = new Map<string, Bitmap>();
  for (const [key, bitmap] of atoms) own.set(key, Bitmap.of(1, bitmap.has(message) ? [0] : []));
  let runs = 0;
  const without = (off: ReadonlySet<string>): Flow => {
    runs++;
    return runFlow(switchedOff(chain, off), own, 1);
  };
  const first = without(new Set());
  if (arrives(first)) return null;
  const sets: string[][] = [];
  const tried = new Set<string>();
  let layer: { off: ReadonlySet<string>; flow: Flow }[] = [{ off: new Set(), flow: first }];
  while (layer.length > 0) {
    const next: typeof layer = [];
    for (const { off, flow } of layer) {
      for (const id of firing(flow)) {
        const more = new Set([...off, id]);
        const name = [...more].sort().join(' ');
        if (tried.has(name) || sets.some((set) => set.every((member) => more.has(member)))) continue;
        tried.add(name);
        if (runs >= MOST_RUNS || sets.length >= MOST_SETS) {
          return { sets: sets.length > 0 ? sets : [...someSet(chain, first, without)], complete: false };
        }
        const then = without(more);
        if (arrives(then)) sets.push(inOrder(chain, more));
        else next.push({ off: more, flow: then });
      }
    }
    layer = next;
  }
  return { sets, complete: true };
}

/** One minimal set, if there are too many to try: all firing entries without the unnecessary ones. */
function* someSet(
  chain: Chain,
  first: Flow,
  without: (off: ReadonlySet<string>) => Flow,
): Generator<string[], void, undefined> {
  const off = new Set<string>();
  for (let flow = first; !arrives(flow); flow = without(off)) {
    const more = firing(flow);
    if (more.length === 0) return;
    for (const id of more) off.add(id);
  }
  for (const id of [...off]) {
    off.delete(id);
    if (!arrives(without(off))) off.add(id);
  }
  yield inOrder(chain, off);
}

/** The chain with some entries switched off. */
export function switchedOff(chain: Chain, off: ReadonlySet<string>): Chain {
  if (off.size === 0) return chain;
  return { ...chain, entries: chain.entries.map((entry) => (off.has(entry.id) ? { ...entry, on: false } : entry)) };
}

const arrives = ({ fates }: Flow): boolean => fates.folders.get(INBOX)?.messages.has(0) ?? false;

const firing = ({ entries }: Flow): string[] =>
  entries.filter(({ fired }) => fired.has(0)).map(({ entry }) => entry.id);

const inOrder = ({ entries }: Chain, ids: ReadonlySet<string>): string[] =>
  entries.flatMap(({ id }) => (ids.has(id) ? [id] : []));
