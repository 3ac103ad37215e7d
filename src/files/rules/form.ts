import type { Chain } from '../../core/rules/rule';

/** What is wrong with a file of rules, or was not understood in it. */
export interface RulesFault {
  /** Where it is: `line:column` of a script, the row and the column of a sheet. */
  readonly at: string;
  readonly words: string;
  /** The entry of the chain that it concerns, by its place; null where that is not known. */
  readonly entry: number | null;
}

export type ReadRules =
  | {
      readonly ok: true;
      readonly chain: Chain;
      /** The text as it is kept for being looked at: XML as the script that it says. */
      readonly source: string;
      readonly faults: readonly RulesFault[];
    }
  | {
      readonly ok: false;
      readonly reason: string;
      /** The line and the column where it stands, counted from 1; null where it is the whole. */
      readonly place: readonly [line: number, column: number] | null;
    };

/** A form in which rules come and are written: how it is told, how it is read, and how it is written. */
export interface RulesForm {
  /** What it is, as it stands in “is no …”. */
  readonly title: string;
  /** By the name of a file and its first octets, one character for each. */
  readonly is: (fileName: string, head: string) => boolean;
  readonly read: (octets: Uint8Array) => ReadRules;
  /** What cannot be said in it is left out. */
  readonly write: (chain: Chain) => string;
}
