import type { Edit } from '../rules/edit';
import { rebase } from '../rules/rebase';
import type { Chain } from '../rules/rule';
import { elementAt } from '../text/lookup';

/** A change that was made out for a chain by itself, such as the repair of a finding. */
export interface Proposed {
  readonly title: string;
  readonly edits: readonly Edit[];
}

/** Several changes taken together. */
export interface Together {
  /** One after the other, for the chain for which each was made out. */
  readonly edits: readonly Edit[];
  /** Those that cannot be had beside the ones before them. */
  readonly conflicts: readonly Conflict[];
}

export interface Conflict {
  /** Its index among what was proposed. */
  readonly index: number;
  /** The index of the one that stands in the way; null where that is none of them. */
  readonly against: number | null;
  /** Why, in plain words. */
  readonly words: string;
}

/** Takes changes together in their order; one that does not fit beside those before it is left out, and told. */
export function takenTogether(chain: Chain, proposed: readonly Proposed[]): Together {
  const edits: Edit[] = [];
  const conflicts: Conflict[] = [];
  const taken: number[] = [];
  let current = chain;
  proposed.forEach((change, index) => {
    const found = rebase(chain, change.edits, current);
    if (found.ok) {
      edits.push(...found.edits);
      current = found.chain;
      taken.push(index);
      return;
    }
    // It is the first of those before without which there would be no conflict.
    const against = taken.find((other) => !fitsBeside(chain, elementAt(proposed, other), change)) ?? null;
    conflicts.push({ index, against, words: found.words });
  });
  return { edits, conflicts };
}

function fitsBeside(chain: Chain, one: Proposed, other: Proposed): boolean {
  const first = rebase(chain, one.edits, chain);
  return first.ok && rebase(chain, other.edits, first.chain).ok;
}
