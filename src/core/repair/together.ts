import type { Edit } from '../rules/edit';
import { rebase } from '../rules/rebase';
import type { Chain } from '../rules/rule';
import { elementAt } from '../text/lookup';

/** A change computed for one chain, such as the repair of a finding. */
export interface Proposed {
  readonly title: string;
  readonly edits: readonly Edit[];
}

/** A batch of changes. */
export interface Together {
  /** Sequential edits, each for the chain after the previous one. */
  readonly edits: readonly Edit[];
  /** Changes that conflict with earlier ones. */
  readonly conflicts: readonly Conflict[];
}

export interface Conflict {
  /** Its index among the proposals. */
  readonly index: number;
  /** The index of the conflicting change; null if there is none. */
  readonly against: number | null;
  /** The reason, in plain words. */
  readonly words: string;
}

/** Joins changes in order; one that conflicts with earlier ones is left out and reported. */
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
    // The first earlier change without which there is no conflict.
    const against = taken.find((other) => !fitsBeside(chain, elementAt(proposed, other), change)) ?? null;
    conflicts.push({ index, against, words: found.words });
  });
  return { edits, conflicts };
}

function fitsBeside(chain: Chain, one: Proposed, other: Proposed): boolean {
  const first = rebase(chain, one.edits, chain);
  return first.ok && rebase(chain, other.edits, first.chain).ok;
}
