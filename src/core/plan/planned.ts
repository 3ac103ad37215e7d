import type { Destination } from '../fates/destination';
import type { Expectation } from '../repair/expectations';
import type { Edit } from '../rules/edit';
import type { Chain, TestTree } from '../rules/rule';
import type { Effect } from './weigh';

/** What the user has said about a plan. */
export interface Said {
  readonly answers: readonly Answer[];
  /** Titles of changes that they do not want. */
  readonly left?: ReadonlySet<string>;
  /** Messages about which they do not want to be asked. */
  readonly skipped?: readonly number[];
  /** What they expect of the chain: no step breaks it for a stored message. */
  readonly expectations?: readonly Expectation[];
  /** Names those of their expectations of messages that are not stored which a chain meets. */
  readonly metBeside?: MetBeside;
}

/** Names, of some expectations, those that a chain meets. */
export type MetBeside = (chain: Chain) => ReadonlySet<number>;

/** So must a stored message end, and those like it. */
export interface Answer {
  readonly message: number;
  readonly destination: Destination;
  /** Which messages are like it, if the user said so. */
  readonly scope?: TestTree;
}

export interface PlanStep {
  readonly part: 'tidy' | 'mend' | 'answer';
  readonly title: string;
  /** For the chain with the steps before. */
  readonly edits: readonly Edit[];
  /** Keys of the findings that it answers. */
  readonly findings: readonly string[];
  /** What it does to all stored mail; messages are named by their numbers. */
  readonly effect: Effect;
  /** Numbers of the stored messages whose fate it changes. */
  readonly messages: readonly number[];
  /** The index of the answer that it gives; null for other steps. */
  readonly answer: number | null;
}

export interface PlannedQuestion {
  readonly message: number;
  readonly options: readonly PlannedOption[];
  /** Keys of the findings that the answer settles. */
  readonly findings: readonly string[];
  readonly worth: number;
}

export interface PlannedOption {
  readonly destination: Destination;
  readonly asNow: boolean;
  /** Stored messages that would go there with it; for as it is now, those that would stay. */
  readonly messages: number;
  /** The change behind it, for the chain of the plan; none for as it is now, and where no change is known. */
  readonly edits: readonly Edit[];
  /** What the change does; empty where there is none. */
  readonly title: string;
  /** Keys of the findings that changes of this kind resolve; for as it is now, those that are then taken to be meant. */
  readonly findings: readonly string[];
}

export interface Plan {
  readonly steps: readonly PlanStep[];
  readonly questions: readonly PlannedQuestion[];
  /** With all steps taken. */
  readonly chain: Chain;
  /** The indexes of answers that no change was found for. */
  readonly unmet: readonly number[];
  /** Keys of findings of which the answers leave nothing to decide. */
  readonly settled: readonly string[];
}
