import type { Chain } from '../../core/rules/rule';

/** A fault in a file of rules, or a part of it that was not understood. */
export interface RulesFault {
  /** Its place: `line:column` of a script, row and column of a sheet. */
  readonly at: string;
  readonly words: string;
  /** The index of the chain entry concerned; null if unknown. */
  readonly entry: number | null;
}

export type ReadRules =
  | {
      readonly ok: true;
      readonly chain: Chain;
      /** The text to show: for XML, the script it stands for. */
      readonly source: string;
      readonly faults: readonly RulesFault[];
    }
  | {
      readonly ok: false;
      readonly reason: string;
      /** Line and column, counted from 1; null for the whole file. */
      readonly place: readonly [line: number, column: number] | null;
    };

/** Whose rules are read. */
export interface RulesReader {
  /** The user's own addresses. */
  readonly me?: readonly string[];
}

/** A format of rules: how to tell, read and write it. */
export interface RulesForm {
  /** Its name, as used in “is not a valid …”. */
  readonly title: string;
  /** Tells the format from the file name and the first octets (one character for each octet). */
  readonly is: (fileName: string, head: string) => boolean;
  readonly read: (octets: Uint8Array, reader?: RulesReader) => ReadRules;
  /** Entries that the format cannot express are left out. */
  readonly write: (chain: Chain) => string;
}
