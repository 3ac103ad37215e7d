import { type Chain, conditionOf, type LeafTest, leavesOf, type Rule } from '../../core/rules/rule';

/**
 * About how much is compared for each octet of a message when a chain runs on it: one for each key, and for what only the
 * interpreter runs, such as a regular expression, one for each character of it.
 */
export function effortOf(chain: Chain): number {
  const known = efforts.get(chain);
  if (known !== undefined) return known;
  const effort = chain.entries.reduce((sum, entry) => {
    return sum + (entry.kind === 'script' ? entry.text.length : effortOfRule(entry));
  }, 0);
  efforts.set(chain, effort);
  return effort;
}

const efforts = new WeakMap<Chain, number>();

export const effortOfRule = (rule: Rule): number =>
  leavesOf(conditionOf(rule)).reduce((sum, leaf) => sum + effortOfLeaf(leaf), 0);

function effortOfLeaf(leaf: LeafTest): number {
  if (leaf.test === 'sieve') return leaf.text.length;
  return 'keys' in leaf ? leaf.keys.length : 1;
}

/** Comparisons that take about a tenth of a second. */
const SHORT = 100_000_000;

/** Whether running something of such an effort on so many octets may take longer than a page should hold others up. */
export const mayTakeLong = (effort: number, octets: number): boolean => effort * octets > SHORT;
