import { areTreatedUnlike, compareChains } from '../reason/equivalence';
import type { Reach } from '../reason/reach';
import type { Witness } from '../reason/witness';
import { applyEdit, moveBefore } from '../rules/edit';
import type { Chain } from '../rules/rule';
import { OrderTable } from './order-table';
import { PairTable } from './pair-table';
import { COMPARABLE } from './questions';

/** Whether the order of two rules matters to messages that both match. */
export type OneOrder =
  | { readonly order: 'alike' }
  /** This message, run by the interpreter, is treated differently if the second is moved directly before the first. */
  | { readonly order: 'conflict'; readonly witness: Witness }
  | { readonly order: 'undecided' };

/** Searches the order of one pair of rules, given by places in the chain, with `known` messages that match both. */
export function orderOfPair(
  chain: Chain,
  reach: Reach,
  [a, b]: readonly [number, number],
  known: readonly Witness[],
): OneOrder {
  const [first, second] = [chain.entries[a], chain.entries[b]];
  if (!first || !second) return { order: 'undecided' };
  const edit = moveBefore(chain, second.id, first.id);
  const moved = edit && applyEdit(chain, edit);
  if (!moved?.ok) return { order: 'alike' };
  if (new OrderTable(chain, [], new PairTable(0)).byForm(a, b) === 'alike') return { order: 'alike' };
  const alone = reach.maybeAlone([a, b]);
  const witness = [...known, ...(alone ? [alone] : [])].find((one) => areTreatedUnlike(chain, moved.chain, one));
  if (witness) return { order: 'conflict', witness };
  if (chain.entries.length > COMPARABLE) return { order: 'undecided' };
  const compared = compareChains(chain, moved.chain, { among: [a, b], knowledge: reach.knowledge });
  if (compared.verdict === 'equivalent') return { order: 'alike' };
  return compared.verdict === 'different' ? { order: 'conflict', witness: compared.witness } : { order: 'undecided' };
}
