import { parseAddressList } from '../../../mail/address';
import type { Envelope } from '../../../mail/message';
import type { TestDefinition } from '../definition';
import { partOf, SEPARATOR } from '../headers';
import { type Candidate, matchingOf } from '../matching';
import { ADDRESS_PART, COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';

/**
 * RFC 5228 section 5.4. The null reverse-path is the empty string, whatever address part is asked for. The parts of
 * RFC 6009 sections 3 and 4 are known, and never there in stored mail.
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

/** What the parts beside from and to need (RFC 6009 sections 3 and 4). */
const CAPABILITIES: ReadonlyMap<string, string> = new Map([
  ...['notify', 'orcpt', 'ret', 'envid'].map((part) => [part, 'envelope-dsn'] as const),
  ...['bytimeabsolute', 'bytimerelative', 'bymode', 'bytrace'].map((part) => [part, 'envelope-deliverby'] as const),
]);

/** Null where the envelope, or the part asked for, is not known. */
function envelopeValue(envelope: Envelope, part: string, addressing: string): string | null {
  const path = part === 'from' ? envelope.from : part === 'to' ? envelope.to : null;
  if (path === null) return null;
  if (path === '') return '';
  const address = parseAddressList(path)[0];
  return address ? partOf(address, addressing, SEPARATOR) : null;
}
