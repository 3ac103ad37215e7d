import type { Evidence, Run } from '../interpret/run';
import type { Argument, CommandNode } from '../tree';
import type { Bound } from './bind';

/** What a command or test looks like: the parser's generic nodes are checked against this and bound by it. */
export interface Signature {
  readonly name: string;
  /** What it does, in one sentence. */
  readonly about: string;
  /** The capability that `require` must name; null for the base language; of several, any will do. */
  readonly capability: string | readonly string[] | null;
  /** Where it is defined, for the documentation and for messages. */
  readonly section: string;
  /** Groups of tags of which at most one may be given, or exactly one where `required`. */
  readonly tagGroups: readonly TagGroup[];
  readonly positional: readonly Parameter[];
  readonly subtests: 'none' | 'one' | 'many';
  /** What it shares with other commands and tests of a run; nothing where this is left out. */
  readonly touches?: (bound: Bound) => readonly Touch[];
  /** Checks beyond the shape, such as addresses; reports through `problem`. */
  readonly examine?: (bound: Bound, problem: Problem) => void;
}

/**
 * What commands and tests share within a run beside the fate, so that one cannot be looked at without the other. The
 * message is touched by what edits its header, for all tests behind it.
 */
export type Touch = 'sets variables' | 'reads variables' | 'sets flags' | 'reads flags' | 'edits message';

/** Reports a fault; a missing require only where it is missing. */
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
  /** The group of which a tag must be given too, for tags that only say more about it. */
  readonly beside?: string;
}

export interface Parameter {
  readonly name: string;
  /** A `string-list` parameter takes a single string too (RFC 5228 section 2.4.2.1). */
  readonly type: 'string' | 'string-list' | 'number';
  /** May be left out; such parameters stand first or last. */
  readonly optional?: { readonly capability?: string };
}

/** What compiling needs to know of the script. */
export interface Setup {
  /** Whether `variables` is required, so that strings may hold references. */
  readonly variables: boolean;
}

export interface TestDefinition extends Signature {
  readonly kind: 'test';
  /** Prepares the test once; the result is run per message. */
  readonly compile: (bound: Bound, children: readonly TestProgram[], setup: Setup) => TestProgram;
}

export interface CommandDefinition extends Signature {
  readonly kind: 'command';
  readonly role: 'control' | 'action';
  readonly block: boolean;
  /** Commands that cannot act on the same message, and the section that says so. */
  readonly excludes?: { readonly names: readonly string[]; readonly section: string };
  /** The section by which it may act only once. */
  readonly once?: string;
  /** The command within whose block it must stand. */
  readonly within?: string;
  /** Null for the commands that shape the script itself: require, if, elsif, else. */
  readonly compile: ((bound: Bound, parts: CommandParts) => ActionProgram) | null;
}

export interface CommandParts {
  readonly node: CommandNode;
  readonly setup: Setup;
  /** The block of the command made ready, for commands that have one. */
  readonly body: ActionProgram;
}

/** `report` is given only when evidence is wanted. */
export type TestProgram = (run: Run, report?: (evidence: Evidence) => void) => boolean;
export type ActionProgram = (run: Run) => void;
