import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chainShape } from '../../files/chain-shape';
import { readWrittenAction, readWrittenTest } from '../rules/as-written';
import { isFurther } from '../rules/further-action-nodes';
import { wordsOfAction, wordsOfTest } from '../rules/nodes';
import type { Action, Rule, TestTree, WrittenTest } from '../rules/rule';
import { sentenceOf } from '../rules/sentence';
import { comparedTest, furtherAction, queryTest } from './arbitrary-further';

const leaf = (made: WrittenTest): TestTree => ({ kind: 'leaf', test: made });
const rule = (tests: TestTree, actions: readonly Action[]): Rule => ({
  kind: 'rule',
  id: 'r1',
  name: 'Oak',
  note: '',
  on: true,
  tests,
  unless: [],
  actions,
  ending: 'stop',
  link: 'always',
});
const furtherTest = fc.oneof(comparedTest, queryTest);

test('tests of every kind are written as Sieve, which the checker takes, and read back', () => {
  fc.assert(
    fc.property(furtherTest, (made) => {
      const text = wordsOfTest(made);
      const read = readWrittenTest(text);
      expect(read, text).toMatchObject({ ok: true });
      if (!read.ok || read.said.kind !== 'leaf') throw new Error(text);
      // Some are equivalent to a plain test.
      if (read.said.test.test === made.test) expect(read.said.test, text).toEqual(made);
      expect(wordsOfTest(read.said.test), text).toBe(text);
    }),
    { numRuns: 1000 },
  );
});

test('actions of every kind are written as Sieve, which the checker takes, and read back', () => {
  fc.assert(
    fc.property(furtherAction, (made) => {
      const text = wordsOfAction(made);
      expect(isFurther(made)).toBe(true);
      expect(readWrittenAction(text), text).toEqual({ ok: true, said: made });
    }),
    { numRuns: 500 },
  );
});

test('they go over the wire, and their sentences hold no Sieve (need N5)', () => {
  fc.assert(
    fc.property(furtherTest, furtherAction, fc.boolean(), (made, action, negated) => {
      const tests: TestTree = negated ? { kind: 'none', children: [leaf(made)] } : leaf(made);
      const entry = rule(tests, [action]);
      const chain = { entries: [entry], closing: '' };
      expect(chainShape.parse(JSON.parse(JSON.stringify(chain)))).toEqual(chain);
      const sentence = sentenceOf(entry);
      expect(sentence).not.toMatch(/ :[a-z]|undefined| {2}/);
      expect(sentence.replace(/a"b|a\\b/g, '')).not.toContain('"');
    }),
    { numRuns: 500 },
  );
});
