import type { Evidence, Run } from '../interpret/run';
import type { Argument, CommandNode } from '../tree';
import type { Bound } from './bind';

/** The signature of a command or test, against which the parser's generic nodes are checked and bound. */
export interface Signature {
  readonly name: string;
  /** Its effect, in one sentence. */
  readonly about: string;
  /** The capability that `require` must name; null for the base language; any one of several is enough. */
  readonly capability: string | readonly string[] | null;
  /** The section that defines it, for documentation and messages. */
  readonly section: string;
  /** Groups of tags, of which at most one may be given, or exactly one if `required`. */
  readonly tagGroups: readonly TagGroup[];
  readonly positional: readonly Parameter[];
  readonly subtests: 'none' | 'one' | 'many';
  /** State it shares with other commands and tests of a run; none if absent. */
  readonly touches?: (bound: Bound) => readonly Touch[];
  /** Further checks, such as addresses; reports through `problem`. */
  readonly examine?: (bound: Bound, problem: Problem) => void;
}

/** State shared within a run besides the fate. Header edits affect the message for all later tests. */
export type Touch = 'sets variables' | 'reads variables' | 'sets flags' | 'reads flags' | 'edits message';

/** Reports a fault; a missing require only if it is missing. */
export type Problem = (
  code:
    | 'missing-require'
    | 'bad-address'
    | 'bad-header-name'
    | 'bad-envelope-part'
    | 'empty-folder'
    | 'unknown-comparator'
    | 'comparator-lacks'
    | 'bad-regex'
    | 'bad-value',
  at: Argument,
  details: Record<string, string>,
) => void;

export interface TagGroup {
  readonly name: string;
  readonly tags: readonly TagDefinition[];
  readonly required?: boolean;
}

export interface TagDefinition {
  readonly tag: string;
  readonly capability?: string;
  /** The argument that follows the tag. */
  readonly value?: Parameter;
  /** The tag group that must be given too, for tags that only qualify it. */
  readonly beside?: string;
}

export interface Parameter {
  readonly name: string;
  /** A `string-list` parameter takes a single string too (RFC 5228 section 2.4.2.1). */
  readonly type: 'string' | 'string-list' | 'number';
  /** Optional; such parameters come first or last. */
  readonly optional?: { readonly capability?: string };
}

/** What compilation needs to know about the script. */
export interface Setup {
  /** Whether `variables` is required, so that strings may contain references. */
  readonly variables: boolean;
}

export interface TestDefinition extends Signature {
  readonly kind: 'test';
  /** Compiles the test once; the result is run per message. */
  readonly compile: (bound: Bound, children: readonly TestProgram[], setup: Setup) => TestProgram;
}

export interface CommandDefinition extends Signature {
  readonly kind: 'command';
  readonly role: 'control' | 'action';
  readonly block: boolean;
  /** Commands that cannot act on the same message, and the section that forbids it. */
  readonly excludes?: { readonly names: readonly string[]; readonly section: string };
  /** The section that allows it to act only once. */
  readonly once?: string;
  /** The command whose block it must be in. */
  readonly within?: string;
  /** Null for the commands that shape the script itself: require, if, elsif, else. */
  readonly compile: ((bound: Bound, parts: CommandParts) => ActionProgram) | null;
}

export interface CommandParts {
  readonly node: CommandNode;
  readonly setup: Setup;
  /** The compiled block, for commands that have one. */
  readonly body: ActionProgram;
}

/** `report` is given only if evidence is requested. */
export type TestProgram = (run: Run, report?: (evidence: Evidence) => void) => boolean;
export type ActionProgram = (run: Run) => void;
