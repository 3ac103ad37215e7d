import { flagKeys, normalFlags } from '../../interpret/fate';
import { readVariable } from '../../interpret/run';
import type { TestDefinition } from '../definition';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';

/** RFC 5232 section 4: compares the flags set by earlier rules, each as a value. */
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
    const match = bound.tag('match-type') ?? 'is';
    const keys = bound.mapping('list-of-flags', (given) => flagKeys(match, given));
    const matching = matchingOf(keys, 'list-of-flags');
    const names = bound.has('variable-list') ? bound.strings('variable-list') : null;
    return (run, report) => {
      const flags = names ? names.flatMap((name) => normalFlags([readVariable(name, run)])) : run.flags;
      const candidates = flags.map((value): Candidate => ({ value, where: { kind: 'flags' } }));
      return matching(run, candidates, report);
    };
  },
};
