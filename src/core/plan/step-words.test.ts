import { expect, test } from 'vitest';
import { replace } from '../audit/repairs';
import { isFrom, ofDomain } from '../audit/senders';
import { moveBefore, rewriting } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import type { Rule } from '../rules/rule';
import { stepWords } from './step-words';

const { chain } = chainFromSieve(`require "fileinto";
# Oak
if address :is "from" "a@oak.example" { fileinto "Oak"; stop; }
# Lime
if header :contains "subject" "lime" { fileinto "Lime"; stop; }
`);
const [oak, lime] = chain.entries as [Rule, Rule];
const wordsFor = (rule: Rule, change: Partial<Rule>) =>
  stepWords(chain, [replace(chain, rule, [{ ...rule, ...change }])]);

test('a step says what it changes of a rule', () => {
  expect(wordsFor(oak, { unless: [isFrom(['b@oak.example'])] })).toBe(
    'Exempt mail from “Oak” where the address in From is “b@oak.example”',
  );
  expect(wordsFor(oak, { tests: isFrom(['a@oak.example', 'b@oak.example']) })).toBe(
    'Let “Oak” match “b@oak.example” too',
  );
  expect(wordsFor(oak, { tests: ofDomain(['oak.example']) })).toBe(
    'Let “Oak” act when the domain of From is “oak.example”',
  );
  expect(wordsFor(lime, { actions: [{ action: 'fileinto', folder: 'Kiln', copy: false, flags: null }] })).toBe(
    'Let “Lime” file into “Kiln”, then stop',
  );
});

test('a step that adds a rule says the whole rule, and several edits are one sentence', () => {
  const rule: Rule = { ...oak, id: 'n', name: 'New', tests: ofDomain(['mill.example']) };
  expect(stepWords(chain, [rewriting(0, [], [rule])])).toBe(
    'Add a rule: when the domain of From is “mill.example”: file into “Oak”, then stop',
  );
  const move = moveBefore(chain, lime.id, oak.id);
  const edits = move ? [move, { kind: 'ending', id: lime.id, from: 'stop', to: 'continue' } as const] : [];
  expect(stepWords(chain, edits)).toBe('Move “Lime” directly before “Oak”; let “Lime” continue');
});
