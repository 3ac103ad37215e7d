import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compareChains } from '../reason/equivalence';
import { chainFromSieve } from '../rules/from-sieve';
import { type Chain, type LeafTest, leavesOf, type Rule } from '../rules/rule';
import { sentenceOf } from '../rules/sentence';
import { readTold } from '../rules/told/read';
import { toldLine } from '../rules/told/told';
import { ruleChain } from './arbitrary-rules';

/** What is written in sentences is read back (need N38). */

const RUNS = Number(process.env.RUNS ?? 300);
const NOBODY = { me: [], folders: [] };
const rulesOf = ({ entries }: Chain): Rule[] => entries.flatMap((entry) => (entry.kind === 'rule' ? [entry] : []));

function readBack(rule: Rule): Rule {
  const line = toldLine(rule);
  expect(line).not.toMatch(/[\r\n]/);
  const read = readTold(line, rule.id, NOBODY);
  expect(read).toMatchObject({ unread: [], remarks: [] });
  return read?.rule ?? expect.unreachable();
}

/** All tests and actions of a rule, in order; names of fields and flags are the same in any case. */
const partsOf = ({ tests, unless, actions, ending, link }: Rule) => [
  [tests, ...unless].flatMap(leavesOf).map((leaf) => inOrder(plainLeaf(leaf))),
  actions.map((action) => inOrder(action).replaceAll('Flagged', 'flagged')),
  ending,
  link,
];

const inOrder = (value: unknown): string =>
  JSON.stringify(value, (_, part) =>
    part && typeof part === 'object' && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );

function plainLeaf(leaf: LeafTest): unknown {
  const lowered = (names: readonly string[]) => [...new Set(names.map((name) => name.toLowerCase()))];
  if ('headers' in leaf) return { ...leaf, headers: lowered(leaf.headers) };
  if (leaf.test !== 'compared' || !('headers' in leaf.subject)) return leaf;
  return { ...leaf, subject: { ...leaf.subject, headers: lowered(leaf.subject.headers) } };
}

describe('rules in sentences', () => {
  test('random rules are read as what was written: the same sentence, equivalent by proof', () => {
    fc.assert(
      fc.property(ruleChain, (chain) => {
        const rules = rulesOf(chain);
        const read = rules.map(readBack);
        expect(read.map(({ name, on }) => [name, on])).toEqual(rules.map(({ name, on }) => [name, on]));
        expect(read.map(partsOf)).toEqual(rules.map(partsOf));
        const { verdict } = compareChains({ entries: read, closing: '' }, { entries: rules, closing: '' });
        expect(verdict).not.toBe('different');
      }),
      { numRuns: RUNS },
    );
  });

  test('the rules of the demo are told in words, without Sieve', () => {
    const { chain } = chainFromSieve(readFileSync(new URL('../../../demo/rules.sieve', import.meta.url), 'utf8'));
    const lines = rulesOf(chain).map(toldLine);
    if (process.env.SHOW) console.log(lines.join('\n'));
    expect(lines.filter((line) => /the Sieve/.test(line))).toEqual([]);
    for (const rule of rulesOf(chain)) expect(sentenceOf(readBack(rule))).toBe(sentenceOf(rule));
  });
});
