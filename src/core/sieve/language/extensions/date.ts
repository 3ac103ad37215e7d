import { DATE_PARTS, dateParts, fieldDate, maybeZone } from '../../../mail/date';
import { examineOneOf } from '../actions/delivery';
import type { Bound } from '../bind';
import type { Problem } from '../definition';
import { fieldsOf, headerCandidate } from '../headers';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, INDEX, MATCH_TYPE } from '../shared';
import { type Extension, test } from './extension';

const ZONE = { tag: 'zone', value: { name: 'zone', type: 'string' } } as const;

/** RFC 5260 sections 4 and 5; `index` of section 6 is defined with the tests it belongs to. */
export const date: Extension = {
  capabilities: ['date', 'index'],
  tests: [
    {
      ...test,
      name: 'date',
      about: 'Compares a part of the date in a header field with keys.',
      capability: 'date',
      section: 'RFC 5260 section 4',
      tagGroups: [{ name: 'zone', tags: [ZONE, { tag: 'originalzone' }] }, COMPARATOR, MATCH_TYPE, ...INDEX],
      positional: [
        { name: 'header-name', type: 'string' },
        { name: 'date-part', type: 'string' },
        { name: 'key-list', type: 'string-list' },
      ],
      examine,
      compile: (bound) => {
        const fields = fieldsOf(bound, bound.texts('header-name'));
        const part = bound.text('date-part');
        const zone = bound.has('zone') ? bound.text('zone') : null;
        const original = bound.tag('zone') === 'originalzone';
        const matching = matchingOf(bound, 'key-list');
        return (run, report) => {
          const candidates = fields(run).flatMap((found): Candidate[] => {
            // Some fields, Received among them, end with their date (section 4).
            const read = fieldDate(found.field.raw);
            if (!read) return [];
            const offset = original ? read.zone : zone ? (maybeZone(zone(run)) ?? run.world.zone) : run.world.zone;
            const value = dateParts(read.time, offset, part(run));
            return value === null ? [] : [headerCandidate(found, value)];
          });
          return matching(run, candidates, report);
        };
      },
    },
    {
      ...test,
      name: 'currentdate',
      about: 'Compares a part of the date of delivery with keys.',
      capability: 'date',
      section: 'RFC 5260 section 5',
      tagGroups: [{ name: 'zone', tags: [ZONE] }, COMPARATOR, MATCH_TYPE],
      positional: [
        { name: 'date-part', type: 'string' },
        { name: 'key-list', type: 'string-list' },
      ],
      examine,
      compile: (bound) => {
        const part = bound.text('date-part');
        const zone = bound.has('zone') ? bound.text('zone') : null;
        const matching = matchingOf(bound, 'key-list');
        return (run, report) => {
          const offset = zone ? (maybeZone(zone(run)) ?? run.world.zone) : run.world.zone;
          const value = dateParts(run.world.now, offset, part(run));
          const where = { kind: 'other', what: 'current date' } as const;
          return matching(run, value === null ? [] : [{ value, where }], report);
        };
      },
    },
  ],
};

function examine(bound: Bound, problem: Problem): void {
  examineMatching(bound, problem, 'key-list');
  examineOneOf(bound, 'date-part', DATE_PARTS, 'a part of a date (RFC 5260 section 4.2)', problem);
  examineOneOf(bound, 'zone', /^[+-]\d{2}[0-5]\d$/, 'a time zone such as "+0100" (RFC 5260 section 4.1)', problem);
}
