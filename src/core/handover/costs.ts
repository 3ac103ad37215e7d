import { Bitmap } from '../flow/bitmap';
import type { Flow } from '../flow/flow';
import { compareChains } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import type { Chain } from '../rules/rule';
import type { Cost, Rewritten } from './rewrite';

/** What is lost of one entry, weighed on the stored mail and by reasoning. */
export interface WeighedCost {
  readonly id: string;
  readonly name: string;
  readonly costs: readonly Cost[];
  /** Stored messages that end otherwise by this alone, ascending. */
  readonly messages: readonly number[];
  /** It is proved that no message at all ends otherwise by it. */
  readonly none: boolean;
}

export interface Weighing {
  readonly costs: readonly WeighedCost[];
  /** How many stored messages end otherwise than by the rules, by all that it costs together. */
  readonly changed: number;
  /** Stored messages that end otherwise than by the rules, though no entry with a cost acts on them. */
  readonly undeclared: readonly number[];
}

/** So many entries are asked about by reasoning, in chains of up to so many. */
const MOST_ASKED = 60;
const MOST_ENTRIES = 200;

/** `flowOf`: the stored mail under a chain over tests that were evaluated. `checkpoint` may throw to cancel. */
export function weighCosts(
  chain: Chain,
  { chain: said, costs }: Rewritten,
  flowOf: (chain: Chain) => Flow,
  checkpoint: (done: number, total: number) => void = () => {},
): Weighing {
  const before = flowOf(chain);
  const after = flowOf(said);
  const knowledge = new Knowledge();
  const ids = [...new Set(costs.map(({ id }) => id))];
  let concerned = new Bitmap(before.count);
  const weighed = ids.map((id, at): WeighedCost => {
    checkpoint(at, ids.length);
    const place = chain.entries.findIndex((entry) => entry.id === id);
    const entry = said.entries[place];
    if (!entry) throw new Error(`there is no entry ${id}`);
    const alone: Chain = { ...chain, entries: chain.entries.with(place, entry) };
    const flow = flowOf(alone);
    const changed = flow.fates.differsFrom(before.fates);
    for (const { fired } of [before.entries[place], after.entries[place], flow.entries[place]].flatMap(
      (one) => one ?? [],
    )) {
      concerned = concerned.or(fired);
    }
    const own = costs.filter((cost) => cost.id === id);
    // What is up to the server cannot be proved to cost nothing.
    const isOurs = own.every(({ kind }) => kind !== 'referred');
    const asked = isOurs && at < MOST_ASKED && chain.entries.length <= MOST_ENTRIES && changed.isEmpty();
    const none = asked && compareChains(chain, alone, { knowledge }).verdict === 'equivalent';
    return { id, name: own[0]?.name ?? '', costs: own, messages: [...changed.members()], none };
  });
  const changed = after.fates.differsFrom(before.fates);
  return { costs: weighed, changed: changed.count(), undeclared: [...changed.without(concerned).members()] };
}
