import { wordsOfTest } from '../../core/rules/nodes';
import { type Chain, conditionOf, type LeafTest, leavesOf, type Rule } from '../../core/rules/rule';

/** Estimated nanoseconds per octet that a chain takes, from measurements of each kind of test. */
export function effortOf(chain: Chain): number {
  const known = efforts.get(chain);
  if (known !== undefined) return known;
  const effort = chain.entries.reduce((sum, entry) => {
    return sum + (entry.kind === 'script' ? effortOfText(entry.text) : effortOfRule(entry));
  }, 0);
  efforts.set(chain, effort);
  return effort;
}

const efforts = new WeakMap<Chain, number>();

export const effortOfRule = (rule: Rule): number =>
  leavesOf(conditionOf(rule)).reduce((sum, leaf) => sum + effortOfLeaf(leaf), 0);

function effortOfLeaf(leaf: LeafTest): number {
  if ('keys' in leaf) return leaf.keys.reduce((sum, key) => sum + effortOfKey(key), 0);
  return leaf.test === 'exists' || leaf.test === 'size' ? 0 : effortOfText(wordsOfTest(leaf));
}

/** Ordinary keys are found by the platform's search; long ones may be patterns crafted to be slow. */
const effortOfKey = (key: string): number => 0.25 + (key.length > 64 ? key.length / 100 : 0);

/** All states of a regular expression are followed at once; for other tests the length of keys is a good estimate. */
const effortOfText = (text: string): number =>
  /:regex/i.test(text) ? 10 * text.length : 1 + (text.length > 1000 ? text.length / 100 : 0);

/** Nanoseconds: a tenth of a second. */
const SHORT = 100_000_000;

/** Whether evaluating this effort on this many octets would block other requests too long. */
export const mayTakeLong = (effort: number, octets: number): boolean => effort * octets > SHORT;
