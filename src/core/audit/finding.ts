import type { Edit } from '../rules/edit';

/** The kinds of findings stated so far; the identifiers are fixed. */
export type FindingKind = 'contradiction' | 'shadowed' | 'order-conflict' | 'runs-on' | 'overlap';

/** What a finding is worth, by how it is known. */
export type Certainty = 'proved' | 'shown' | 'observed' | 'undecided';

/** What follows from the finding if nothing is done, the worst first. */
export type Consequence = 'lost' | 'leaked' | 'unseen' | 'misplaced' | 'clutter';

export const CONSEQUENCES: readonly Consequence[] = ['lost', 'leaked', 'unseen', 'misplaced', 'clutter'];

export interface Finding {
  /** The same for the same kind and rules, so that it can be linked to. */
  readonly key: string;
  readonly kind: FindingKind;
  /** Ids of the rules it is about, in the order of the claim. */
  readonly rules: readonly string[];
  readonly certainty: Certainty;
  readonly consequence: Consequence;
  /** The claim in one sentence that names the rules. */
  readonly claim: string;
  /** Stored messages that bear it out, ascending; of what can never happen, those that would be concerned. */
  readonly messages: readonly number[];
  readonly repairs: readonly Repair[];
}

/** A change to the chain that answers a finding. */
export interface Repair {
  readonly title: string;
  readonly edits: readonly Edit[];
}
