import type { Assumption } from '../reason/solve/assumptions';
import { filledTo, type Witness } from '../reason/witness';
import type { Edit } from '../rules/edit';
import type { FindingKind } from './kind-words';

/** How a finding is known. */
export type Certainty = 'proved' | 'shown' | 'observed' | 'undecided';

/** The consequence if nothing is done, gravest first. */
export type Consequence = 'lost' | 'leaked' | 'unseen' | 'misplaced' | 'clutter';

export const CONSEQUENCES: readonly Consequence[] = ['lost', 'leaked', 'unseen', 'misplaced', 'clutter'];

export interface Finding {
  /** Stable for the same kind and rules, so that it can be linked to. */
  readonly key: string;
  readonly kind: FindingKind;
  /** Ids of the rules it is about, in the order of the claim. */
  readonly rules: readonly string[];
  readonly certainty: Certainty;
  /** What a proof takes for granted about messages; nothing if absent. */
  readonly assumes?: readonly Assumption[];
  readonly consequence: Consequence;
  /** The claim in one sentence that names the rules. */
  readonly claim: string;
  /** Stored messages that show it, ascending; for what can never happen, those that would be affected. */
  readonly messages: readonly number[];
  /** An example message if no stored one shows it; the interpreter has confirmed its fate. */
  readonly witness: MadeUp | null;
  /** Whether an exception of one rule is about the mail of the other, so that the user has thought of the two together. */
  readonly isNamed?: true;
  /** Whether the example message is one that the user keeps to try on the chain. */
  readonly isKept?: true;
  /** For observations on stored mail, the ratio behind them. */
  readonly strength: Strength | null;
  readonly repairs: readonly Repair[];
}

/** A finding without repairs. */
export type Statement = Omit<Finding, 'repairs'>;

/** An example message as data: its text, and the size to which it is padded. */
export interface MadeUp {
  readonly open: string;
  readonly size: number;
  readonly from: string | null;
  readonly to: string | null;
  /** The current date that it needs, in milliseconds since 1970: it arrives then. Any time if absent. */
  readonly now?: number;
}

export interface Strength {
  readonly part: number;
  readonly whole: number;
  /** The words after “7 of 9”. */
  readonly words: string;
}

/** A change to the chain that answers a finding. */
export interface Repair {
  readonly title: string;
  readonly edits: readonly Edit[];
}

export function madeUpOf({ open, message, envelope, now }: Witness): MadeUp {
  return { open, size: message.size, from: envelope.from, to: envelope.to, ...(now !== null && { now }) };
}

export const textOf = ({ open, size }: MadeUp): string => filledTo(open, size);
