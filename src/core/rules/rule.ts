import type { Taken } from '../sieve/interpret/fate';
import type { FurtherAddressPart, FurtherTest } from './comparison';
import type { FurtherAction } from './further-actions';
import type { Profile } from './profile';

/** The rules of a mail user as data without spans: what a Sieve script means, independent of how it was written. */

/** The rules in running order. */
export interface Chain {
  readonly entries: readonly ChainEntry[];
  /** Comments that belong to no rule, kept for the export. */
  readonly closing: string;
  /** Named lists of addresses or other keys that tests refer to. */
  readonly lists?: readonly NamedList[];
  /** How the program that the rules are in runs them; as Sieve does if absent. */
  readonly profile?: Profile;
}

/** Keys under a name, used by any number of tests. */
export interface NamedList {
  /** Unique in the chain, never shown. */
  readonly id: string;
  readonly name: string;
  readonly keys: readonly string[];
}

export type ChainEntry = Rule | ScriptBlock;

export interface Rule {
  readonly kind: 'rule';
  /** Unique in the chain, never shown. */
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly on: boolean;
  readonly tests: TestTree;
  /** Any of them exempts. */
  readonly unless: readonly TestTree[];
  readonly actions: readonly Action[];
  readonly ending: Ending;
  readonly link: Link;
  /** The user's own words to find rules by; they have no effect and are not part of scripts. */
  readonly tags?: readonly string[];
}

/** `stop`: later rules do not see a message this one has acted on. */
export type Ending = 'continue' | 'stop';

/**
 * `otherwise`: tried only if none of the rules before it in its linked run has fired. A run is an `always` rule and the
 * `otherwise` rules directly after it; a rule that is off never fires.
 */
export type Link = 'always' | 'otherwise';

/** Sieve that a rule cannot express, or text that could not be read, word for word. */
export interface ScriptBlock {
  readonly kind: 'script';
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly on: boolean;
  readonly text: string;
  /** Why it is a script block, in a few words. */
  readonly reason: string;
  /** False for text that was not understood: the block then does nothing and is exported as a comment. */
  readonly works: boolean;
  /**
   * Capabilities that the text needs beyond those of its commands: variables, encoded-character; for text that was not
   * understood, the unknown ones that its script requires.
   */
  readonly requires: readonly string[];
  /** The script that must have run before; see `TestInContext`. */
  readonly before?: string;
}

/** An empty `all` is true, an empty `any` is false; `none` is the negation of `any`. */
export type TestTree =
  | { readonly kind: 'all' | 'any' | 'none'; readonly children: readonly TestTree[] }
  | { readonly kind: 'leaf'; readonly test: LeafTest };

export interface TextMatch {
  readonly match: 'is' | 'contains' | 'matches';
  readonly comparator: string;
  readonly keys: readonly string[];
  /** The id of the named list whose keys these are. */
  readonly list?: string;
}

export type AddressPart = Exclude<FurtherAddressPart, 'user' | 'detail'>;

export type LeafTest =
  | ({ readonly test: 'header'; readonly headers: readonly string[] } & TextMatch)
  | ({ readonly test: 'address'; readonly headers: readonly string[]; readonly part: AddressPart } & TextMatch)
  | ({ readonly test: 'envelope'; readonly parts: readonly ('from' | 'to')[]; readonly part: AddressPart } & TextMatch)
  | { readonly test: 'exists'; readonly headers: readonly string[] }
  | { readonly test: 'size'; readonly relation: 'over' | 'under'; readonly octets: number }
  | ({ readonly test: 'hasflag' } & TextMatch)
  | FurtherTest
  | TestInContext;

/**
 * A test with its context, made by `inContext` for evaluation; never stored, and absent from a chain as it is written.
 */
export interface TestInContext {
  readonly test: 'in-context';
  /** The script that must have run before, since it may have changed what is tested. */
  readonly before: string;
  /** The test as it is written. */
  readonly meant: WrittenTest;
}

/** A test as rules contain it. */
export type WrittenTest = Exclude<LeafTest, TestInContext>;

/** Plain actions: those whose effect does not depend on the message. */
export type PlainAction = Exclude<Taken, { action: 'reject' | 'reply' | 'fileinto' | 'edit' }> | Fileinto;

export type Action =
  | PlainAction
  | (FurtherAction & {
      /** The script that must have run before; see `TestInContext`. */
      readonly before?: string;
    });

/** Files a message or, with `copy`, a copy of it. */
export type Fileinto = Extract<Taken, { action: 'fileinto' }> & {
  /** Whether the folder is created if missing (RFC 5490 section 3.2); it changes no fate. */
  readonly create?: true;
};

/** A rule that matches every message and does nothing, as a base for others. */
export const blankRule = (id: string): Rule => ({
  kind: 'rule',
  id,
  name: '',
  note: '',
  on: true,
  tests: { kind: 'all', children: [] },
  unless: [],
  actions: [],
  ending: 'continue',
  link: 'always',
});

/** The condition under which a reached rule fires: its tests hold and no exception does. */
export function conditionOf(rule: Rule): TestTree {
  if (rule.unless.length === 0) return rule.tests;
  return { kind: 'all', children: [rule.tests, { kind: 'none', children: rule.unless }] };
}

export function leavesOf(tree: TestTree): LeafTest[] {
  return tree.kind === 'leaf' ? [tree.test] : tree.children.flatMap(leavesOf);
}

/** Whether a test reads flags that earlier rules set, so that it depends on more than the message. */
export function looksAtFlags(tree: TestTree): boolean {
  return leavesOf(tree).some((leaf) => leaf.test === 'hasflag');
}
