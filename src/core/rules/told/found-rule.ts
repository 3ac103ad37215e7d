import type { Rule, TestTree } from '../rule';

/** A part of a line, by its offsets. */
export interface Part {
  readonly start: number;
  readonly end: number;
}

export interface Remark extends Part {
  readonly words: string;
  /** The rule cannot be meant as it was read. */
  readonly isFault: boolean;
}

type RuleParts = Pick<Rule, 'tests' | 'unless' | 'actions' | 'ending' | 'link'>;

/** What a line was read as. */
export interface FoundRule {
  readonly rule: RuleParts;
  readonly unread: readonly Part[];
  readonly remarks: readonly Remark[];
  /** What was understood and is not part of the rule, which is off without a condition; null for nothing. */
  readonly lacks: 'action' | 'condition' | null;
}

export const NO_TESTS: TestTree = { kind: 'all', children: [] };
