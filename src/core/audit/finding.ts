import { filledTo, type Witness } from '../reason/witness';
import type { Edit } from '../rules/edit';
import type { FindingKind } from './wording';

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
  /** A made-up message that demonstrates it, where no stored one does; the interpreter has confirmed what becomes of it. */
  readonly witness: MadeUp | null;
  /** For what is read off the stored mail, how strong that is: so many of so many. */
  readonly strength: Strength | null;
  readonly repairs: readonly Repair[];
}

/** A finding without what can be done about it. */
export type Statement = Omit<Finding, 'repairs'>;

/** A made-up message as data: its text, and the octets it is filled up to with blanks. */
export interface MadeUp {
  readonly open: string;
  readonly size: number;
  readonly from: string | null;
  readonly to: string | null;
}

export interface Strength {
  readonly part: number;
  readonly whole: number;
  /** What is counted, to go behind “7 of 9”. */
  readonly words: string;
}

/** A change to the chain that answers a finding. */
export interface Repair {
  readonly title: string;
  readonly edits: readonly Edit[];
}

export function madeUpOf({ open, message, envelope }: Witness): MadeUp {
  return { open, size: message.size, from: envelope.from, to: envelope.to };
}

export const textOf = ({ open, size }: MadeUp): string => filledTo(open, size);
