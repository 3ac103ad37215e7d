import { parseAddressList } from '../../../mail/address';
import type { HeaderField } from '../../../mail/headers';
import type { Envelope } from '../../../mail/message';
import { parseParameters } from '../../../mail/parameters';
import type { Bound } from '../bind';
import type { Problem, TestDefinition } from '../definition';
import { addressCandidates, fieldsOf, headerCandidate, partOf, SEPARATOR } from '../headers';
import { type Candidate, matchingOf } from '../matching';
import { ADDRESS_PART, COMPARATOR, examineHeaderNames, examineMatching, INDEX, MATCH_TYPE, MIME } from '../shared';

/** The common part of tests that compare header fields with keys. */
const COMPARING_FIELDS = {
  kind: 'test',
  capability: null,
  positional: [
    { name: 'header-list', type: 'string-list' },
    { name: 'key-list', type: 'string-list' },
  ],
  subtests: 'none',
  examine: (bound: Bound, problem: Problem) => {
    examineMatching(bound, problem, 'key-list');
    examineHeaderNames(bound, problem);
  },
} as const;

/** RFC 5228 section 5.1: addresses without their display names, members of groups included. */
export const address: TestDefinition = {
  ...COMPARING_FIELDS,
  name: 'address',
  about: 'Compares the addresses in header fields, or a part of them, with keys.',
  section: 'RFC 5228 section 5.1',
  tagGroups: [COMPARATOR, ADDRESS_PART, MATCH_TYPE, ...INDEX, ...MIME],
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

/** RFC 5228 section 5.7: some value of some of the headers matches some key. With :mime by RFC 5703 section 4.1. */
export const header: TestDefinition = {
  ...COMPARING_FIELDS,
  name: 'header',
  about: 'Compares the values of header fields with keys.',
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
 * The part of a field that :type, :subtype, :contenttype and :param read (RFC 5703 section 4.2): of Content-Disposition
 * only the disposition and the parameters, and the empty string if the field has none.
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

/**
 * RFC 5228 section 5.4. The null reverse-path is the empty string, whatever address part is asked for. The parts of RFC
 * 6009 sections 3 and 4 are known, but absent from stored mail.
 */
export const envelope: TestDefinition = {
  kind: 'test',
  name: 'envelope',
  about: 'Compares the sender or recipient of the SMTP envelope with keys.',
  capability: 'envelope',
  section: 'RFC 5228 section 5.4',
  tagGroups: [COMPARATOR, ADDRESS_PART, MATCH_TYPE],
  positional: [
    { name: 'envelope-part', type: 'string-list' },
    { name: 'key-list', type: 'string-list' },
  ],
  subtests: 'none',
  examine: (bound, problem) => {
    examineMatching(bound, problem, 'key-list');
    for (const item of bound.items('envelope-part')) {
      const part = item.value.toLowerCase();
      const capability = CAPABILITIES.get(part);
      if (bound.varies(part) || part === 'from' || part === 'to') continue;
      if (capability) problem('missing-require', item, { capability, what: `the part "${part}" of the envelope` });
      else problem('bad-envelope-part', item, { name: item.value });
    }
  },
  compile: (bound) => {
    const parts = bound.texts('envelope-part');
    const addressing = bound.tag('address-part') ?? 'all';
    const matching = matchingOf(bound, 'key-list');
    return (run, report) => {
      const candidates = parts(run).flatMap((name): Candidate[] => {
        const part = name.toLowerCase();
        const value = envelopeValue(run.envelope, part, addressing);
        return value === null ? [] : [{ value, where: { kind: 'envelope', part } }];
      });
      return matching(run, candidates, report);
    };
  },
};

/** The capabilities of parts other than from and to (RFC 6009 sections 3 and 4). */
const CAPABILITIES: ReadonlyMap<string, string> = new Map([
  ...['notify', 'orcpt', 'ret', 'envid'].map((part) => [part, 'envelope-dsn'] as const),
  ...['bytimeabsolute', 'bytimerelative', 'bymode', 'bytrace'].map((part) => [part, 'envelope-deliverby'] as const),
]);

/** Null if the envelope, or the requested part, is unknown. */
function envelopeValue(envelope: Envelope, part: string, addressing: string): string | null {
  const path = part === 'from' ? envelope.from : part === 'to' ? envelope.to : null;
  if (path === null) return null;
  if (path === '') return '';
  const address = parseAddressList(path)[0];
  return address ? partOf(address, addressing, SEPARATOR) : null;
}

/** RFC 5228 section 5.5: every one of the headers is there. */
export const exists: TestDefinition = {
  kind: 'test',
  name: 'exists',
  about: 'True when the message has all of the header fields.',
  capability: null,
  section: 'RFC 5228 section 5.5',
  tagGroups: [...MIME],
  positional: [{ name: 'header-list', type: 'string-list' }],
  subtests: 'none',
  examine: examineHeaderNames,
  compile: (bound) => {
    const names = bound.texts('header-list');
    const fields = fieldsOf(bound, names);
    return (run, report) => {
      const found = fields(run);
      const places = names(run).map((name) => {
        return found.find(({ field }) => field.name.toLowerCase() === name.toLowerCase());
      });
      if (places.includes(undefined)) return false;
      for (const place of places) {
        if (!place || place.index < 0) continue;
        const { name, value } = place.field;
        report?.({ where: { kind: 'header', name, field: place.index }, value, key: name, spans: [] });
      }
      return true;
    };
  },
};
