import type { TestDefinition } from '../definition';
import { addressCandidates, fieldsOf, SEPARATOR } from '../headers';
import { matchingOf } from '../matching';
import { ADDRESS_PART, COMPARATOR, examineHeaderNames, examineMatching, INDEX, MATCH_TYPE, MIME } from '../shared';

/** RFC 5228 section 5.1: addresses without their display names, members of groups included. */
export const address: TestDefinition = {
  kind: 'test',
  name: 'address',
  about: 'Compares the addresses in header fields, or a part of them, with keys.',
  capability: null,
  section: 'RFC 5228 section 5.1',
  tagGroups: [COMPARATOR, ADDRESS_PART, MATCH_TYPE, ...INDEX, ...MIME],
  positional: [
    { name: 'header-list', type: 'string-list' },
    { name: 'key-list', type: 'string-list' },
  ],
  subtests: 'none',
  examine: (bound, problem) => {
    examineMatching(bound, problem, 'key-list');
    examineHeaderNames(bound, problem);
  },
  compile: (bound) => {
    const fields = fieldsOf(bound, bound.texts('header-list'));
    const part = bound.tag('address-part') ?? 'all';
    const matching = matchingOf(bound, 'key-list');
    return (run, report) =>
      matching(
        run,
        fields(run).flatMap((found) => addressCandidates(found, part, SEPARATOR)),
        report,
      );
  },
};
