import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';
import { type Extension, test } from './extension';

/** RFC 5183: an item that is not known makes the test false (section 4). */
export const environment: Extension = {
  capabilities: ['environment'],
  tests: [
    {
      ...test,
      name: 'environment',
      about: 'Compares an item of the server’s environment with keys.',
      capability: 'environment',
      section: 'RFC 5183 section 4',
      tagGroups: [COMPARATOR, MATCH_TYPE],
      positional: [
        { name: 'name', type: 'string' },
        { name: 'key-list', type: 'string-list' },
      ],
      examine: (bound, problem) => examineMatching(bound, problem, 'key-list'),
      compile: (bound) => {
        const name = bound.text('name');
        const matching = matchingOf(bound, 'key-list');
        return (run, report) => {
          const value = run.world.environment.get(name(run).toLowerCase());
          const candidates: Candidate[] =
            value === undefined ? [] : [{ value, where: { kind: 'other', what: `environment ${name(run)}` } }];
          return candidates.length > 0 && matching(run, candidates, report);
        };
      },
    },
  ],
};
