import { readVariable } from '../../interpret/expand';
import { normalFlags } from '../../interpret/fate';
import type { TestDefinition } from '../definition';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';

/** RFC 5232 section 4: looks at the flags that the rules before have set, each flag a value of its own. */
export const hasflag: TestDefinition = {
  kind: 'test',
  name: 'hasflag',
  about: 'Compares the flags set so far with keys.',
  capability: 'imap4flags',
  section: 'RFC 5232 section 4',
  tagGroups: [COMPARATOR, MATCH_TYPE],
  positional: [
    { name: 'variable-list', type: 'string-list', optional: { capability: 'variables' } },
    { name: 'list-of-flags', type: 'string-list' },
  ],
  subtests: 'none',
  touches: (bound) => [bound.has('variable-list') ? 'reads variables' : 'reads flags'],
  examine: (bound, problem) => examineMatching(bound, problem, 'list-of-flags'),
  compile: (bound) => {
    // With :is the keys are flags and read as such; with other match types they are parts of or patterns for flags.
    const isFlags = (bound.tag('match-type') ?? 'is') === 'is';
    const matching = matchingOf(isFlags ? bound.mapping('list-of-flags', normalFlags) : bound, 'list-of-flags');
    const names = bound.has('variable-list') ? bound.strings('variable-list') : null;
    return (run, report) => {
      const flags = names ? names.flatMap((name) => normalFlags([readVariable(name, run)])) : run.flags;
      const candidates = flags.map((value): Candidate => ({ value, where: { kind: 'flags' } }));
      return matching(run, candidates, report);
    };
  },
};
