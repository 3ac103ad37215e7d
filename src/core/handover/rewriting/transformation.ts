import { testNode } from '../../rules/nodes';
import type { Action, LeafTest, Rule, TestTree } from '../../rules/rule';
import { testNeeds } from '../../sieve/language/needs';
import type { Target } from '../target';

/** A way to rewrite a rule without one capability. */
export interface Transformation {
  readonly without: string;
  /** Null if it needs the capability. */
  readonly rewrite: (rule: Rule, settings: RewriteSettings) => Rewriting | null;
}

export interface Rewriting {
  readonly rule: Rule;
  /** The resulting difference in plain words; null if every message is treated alike. */
  readonly cost: string | null;
}

export interface RewriteSettings {
  readonly target: Target;
  /** What happens to mail that a server cannot reject. */
  readonly refused: 'dropped' | 'kept';
}

/** Rewrites each test of a rule, including exceptions; null if any cannot be rewritten. */
export function withTests(rule: Rule, change: (test: LeafTest) => TestTree | null): Rule | null {
  const tests = changed(rule.tests, change);
  const unless = rule.unless.map((tree) => changed(tree, change));
  if (!tests || unless.some((tree) => tree === null)) return null;
  return { ...rule, tests, unless: unless.flatMap((tree) => tree ?? []) };
}

function changed(tree: TestTree, change: (test: LeafTest) => TestTree | null): TestTree | null {
  if (tree.kind === 'leaf') return change(tree.test);
  const children = tree.children.map((child) => changed(child, change));
  return children.some((child) => child === null)
    ? null
    : { ...tree, children: children.flatMap((child) => child ?? []) };
}

/** Rewrites each test that needs a capability; `cost` is the resulting difference. */
export function byTests(
  without: string,
  cost: string | null,
  change: (test: LeafTest) => TestTree | null,
): Transformation {
  return {
    without,
    rewrite: (rule) => {
      const rewritten = withTests(rule, (test) => (needs(test, without) ? change(test) : leaf(test)));
      return rewritten && { rule: rewritten, cost };
    },
  };
}

/** Rewrites each action; one may become several, or none. */
export function withActions(rule: Rule, change: (action: Action) => readonly Action[]): Rule {
  return { ...rule, actions: rule.actions.flatMap(change) };
}

export const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });

/** Whether a test needs a capability. */
export const needs = (test: LeafTest, capability: string): boolean =>
  testNeeds(testNode(leaf(test))).includes(capability);

/** Escapes a text for a pattern of `:matches` (RFC 5228 section 2.7.1). */
export const escaped = (key: string): string => key.replace(/[\\*?]/g, '\\$&');
