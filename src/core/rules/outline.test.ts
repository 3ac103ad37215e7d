import fc from 'fast-check';
import { expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { ruleChain } from '../agreement/arbitrary-rules';
import { chainFromSieve } from './from-sieve';
import { maybeOutline, outlineText } from './outline';
import { leavesOf } from './rule';
import { leafWords } from './sentence';

const ruleOf = (script: string) => ruleAt(chainFromSieve(`require ["fileinto"];\n${script}`).chain.entries, 0);
const told = (script: string) => {
  const lines = maybeOutline(ruleOf(script));
  return lines && outlineText(lines);
};

test('a rule without anything nested, or with little of it, is read as its sentence', () => {
  expect(told('if header :contains "subject" ["oak", "elm"] { fileinto "Oak"; }')).toBeNull();
  expect(told('if anyof (exists "a", allof (exists "b", exists "c")) { fileinto "Oak"; }')).toBeNull();
  expect(told('keep;')).toBeNull();
});

test('long nested conditions are a list: short parts in one line, each part under what joins it', () => {
  const script = `if allof (
    address :domain :is "from" ["mill.example", "quarry.example"],
    anyof (
      header :contains "subject" ["inspection of the sluice", "inspection of the weir"],
      allof (exists "x-inspection", not anyof (size :over 2M, header :is "precedence" "bulk")),
      header :contains "subject" ["timetable", "rota for the gates and the sluices"]
    )) { fileinto "Inspections"; stop; }`;
  expect(told(script)).toBe(
    [
      'When all of these match:',
      '  the domain of From is “mill.example” or “quarry.example”',
      '  at least one of these matches:',
      '    the subject contains “inspection of the sluice” or “inspection of the weir”',
      '    all of these match:',
      '      the field X-Inspection is present',
      '      the message is at most 2 MB and Precedence is not “bulk”',
      '    the subject contains “timetable” or “rota for the gates and the sluices”',
      'Then file into “Inspections”, then stop.',
    ].join('\n'),
  );
});

test('every test of a rule stands in its list, by itself or negated', () => {
  let met = 0;
  fc.assert(
    fc.property(ruleChain, (chain) => {
      for (const entry of chain.entries) {
        const lines = maybeOutline(entry);
        if (!lines || entry.kind !== 'rule') continue;
        met++;
        const text = outlineText(lines);
        for (const leaf of [entry.tests, ...entry.unless].flatMap(leavesOf)) {
          expect(text.includes(leafWords(leaf)) || text.includes(leafWords(leaf, true))).toBe(true);
        }
        expect(lines.at(-1)?.text).toMatch(/^Then /);
      }
    }),
    { numRuns: 300 },
  );
  expect(met).toBeGreaterThan(10);
});
