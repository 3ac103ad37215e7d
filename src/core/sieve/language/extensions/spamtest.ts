import type { TestDefinition } from '../definition';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';
import { type Extension, test } from './extension';

const VALUE = [{ name: 'value', type: 'string' }] as const;
const candidate = (value: number, what: string): Candidate => ({
  value: String(value),
  where: { kind: 'other', what },
});

const score = {
  ...test,
  positional: VALUE,
  examine: (bound, problem) => examineMatching(bound, problem, 'value'),
} satisfies Partial<TestDefinition>;

/** RFC 5235: 0 stands for "not tested"; with :percent the scale goes to 100. */
export const spamtest: Extension = {
  capabilities: ['spamtest', 'spamtestplus', 'virustest'],
  tests: [
    {
      ...score,
      name: 'spamtest',
      about: 'Compares the spam score of the message with a value.',
      capability: ['spamtest', 'spamtestplus'],
      section: 'RFC 5235 section 2',
      tagGroups: [{ name: 'percent', tags: [{ tag: 'percent', capability: 'spamtestplus' }] }, COMPARATOR, MATCH_TYPE],
      compile: (bound) => {
        const percent = bound.tag('percent') !== null;
        const matching = matchingOf(bound, 'value');
        // :count "eq" "0" holds where nothing was tested (section 2.2).
        const counts = bound.tag('match-type') === 'count';
        return (run, report) => {
          const value = run.world.spamScore(run.message, percent);
          return matching(run, counts && value === 0 ? [] : [candidate(value, 'spam score')], report);
        };
      },
    },
    {
      ...score,
      name: 'virustest',
      about: 'Compares the virus score of the message with a value.',
      capability: 'virustest',
      section: 'RFC 5235 section 3',
      tagGroups: [COMPARATOR, MATCH_TYPE],
      compile: (bound) => {
        const matching = matchingOf(bound, 'value');
        return (run, report) => matching(run, [candidate(run.world.virusScore(run.message), 'virus score')], report);
      },
    },
  ],
};
