import type { HeaderField } from '../../../mail/headers';
import { parseParameters } from '../../../mail/parameters';
import type { TestDefinition } from '../definition';
import { fieldsOf, headerCandidate } from '../headers';
import { matchingOf } from '../matching';
import { COMPARATOR, examineHeaderNames, examineMatching, INDEX, MATCH_TYPE, MIME } from '../shared';

/** RFC 5228 section 5.7: some value of some of the headers matches some key. With :mime by RFC 5703 section 4.1. */
export const header: TestDefinition = {
  kind: 'test',
  name: 'header',
  about: 'Compares the values of header fields with keys.',
  capability: null,
  section: 'RFC 5228 section 5.7',
  tagGroups: [
    COMPARATOR,
    MATCH_TYPE,
    ...INDEX,
    ...MIME,
    {
      name: 'mime-option',
      tags: [
        { tag: 'type', capability: 'mime', beside: 'mime' },
        { tag: 'subtype', capability: 'mime', beside: 'mime' },
        { tag: 'contenttype', capability: 'mime', beside: 'mime' },
        { tag: 'param', capability: 'mime', value: { name: 'param', type: 'string-list' }, beside: 'mime' },
      ],
    },
  ],
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
    const matching = matchingOf(bound, 'key-list');
    const option = bound.tag('mime-option');
    const wanted = bound.has('param') ? bound.strings('param') : [];
    return (run, report) => {
      const candidates = fields(run).flatMap((found) => {
        if (option === null) return [headerCandidate(found)];
        return mimeValues(found.field, option, wanted).map((value) => headerCandidate(found, value));
      });
      return matching(run, candidates, report);
    };
  },
};

/**
 * What :type, :subtype, :contenttype and :param take of a field (RFC 5703 section 4.2): of Content-Disposition only the
 * disposition and the parameters, and the empty string where the field has no such thing.
 */
function mimeValues({ name, value: text }: HeaderField, option: string, wanted: readonly string[]): string[] {
  const { value, parameters } = parseParameters(text);
  const [type = '', subtype = ''] = value.split('/');
  const isType = /^content-type$/i.test(name);
  const isDisposition = /^content-disposition$/i.test(name);
  switch (option) {
    case 'type':
      return [isType || isDisposition ? type.trim() : ''];
    case 'subtype':
      return [isType ? subtype.trim() : ''];
    case 'contenttype':
      return [isType ? value : isDisposition ? type.trim() : ''];
    default:
      return wanted.flatMap((parameter) => parameters.get(parameter.toLowerCase()) ?? []);
  }
}
