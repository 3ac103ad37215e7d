import { Bitmap } from '../flow/bitmap';
import type { Flow } from '../flow/flow';
import { compareChains } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import { inSieve } from '../rules/profile';
import type { Chain } from '../rules/rule';
import type { Cost, Rewritten } from './rewrite';

/** The difference of one entry, counted on stored mail and by proof. */
export interface WeighedCost {
  readonly id: string;
  readonly name: string;
  readonly costs: readonly Cost[];
  /** Stored messages whose fate differs through this alone, ascending. */
  readonly messages: readonly number[];
  /** Proved to change no fate. */
  readonly none: boolean;
}

export interface Weighing {
  readonly costs: readonly WeighedCost[];
  /** How many stored messages differ through all differences together. */
  readonly changed: number;
  /** Stored messages whose fate differs although no entry with a difference acts on them. */
  readonly undeclared: readonly number[];
}

/** The most entries for proofs, and the longest chains. */
const MOST_ASKED = 60;
const MOST_ENTRIES = 200;

/**
 * `flowOf`: the flow of the stored mail through a chain whose tests are evaluated. `checkpoint` may throw to cancel.
 */
export function weighCosts(
  given: Chain,
  { chain: said, costs }: Rewritten,
  flowOf: (chain: Chain) => Flow,
  checkpoint: (done: number, total: number) => void = () => {},
): Weighing {
  // What is rewritten is the chain as it is in Sieve, entry by entry.
  const { chain } = inSieve(given);
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
    // What depends on the server cannot be proved to have no effect.
    const isOurs = own.every(({ kind }) => kind !== 'referred');
    const asked = isOurs && at < MOST_ASKED && chain.entries.length <= MOST_ENTRIES && changed.isEmpty();
    const none = asked && compareChains(chain, alone, { knowledge }).verdict === 'equivalent';
    return { id, name: own[0]?.name ?? '', costs: own, messages: [...changed.members()], none };
  });
  const changed = after.fates.differsFrom(before.fates);
  return { costs: weighed, changed: changed.count(), undeclared: [...changed.without(concerned).members()] };
}
