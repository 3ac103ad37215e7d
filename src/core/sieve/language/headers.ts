import { type Address, addressPart } from '../../mail/address';
import type { HeaderField } from '../../mail/headers';
import { placesNamed } from '../../mail/headers';
import { addressesOf, partsOf } from '../../mail/message';
import { type MimePart, walkParts } from '../../mail/parts';
import { elementAt } from '../../text/lookup';
import type { Run } from '../interpret/run';
import type { Bound } from './bind';
import type { Candidate } from './matching';

/** A field that a test reads; `index` counts among the fields of the message, -1 for a field of a MIME part. */
interface Found {
  readonly field: HeaderField;
  readonly index: number;
}

/**
 * The fields that `header`, `address`, `exists` and `date` read: by name, occurrence (RFC 5260) and part (RFC 5703); in
 * the order of the names.
 */
export function fieldsOf(bound: Bound, names: (run: Run) => readonly string[]): (run: Run) => Found[] {
  const mime = bound.tag('mime') !== null;
  const anychild = bound.tag('anychild') !== null;
  const nth = bound.has('index') ? bound.number('index') : null;
  const fromEnd = bound.tag('last') !== null;
  let last: { readonly given: readonly string[]; readonly wanted: readonly string[] } | null = null;
  return (run) => {
    const given = names(run);
    if (last?.given !== given) last = { given, wanted: [...new Set(given.map((name) => name.toLowerCase()))] };
    const { wanted } = last;
    const blocks = mime ? partFields(run, anychild) : [run.message.fields];
    // The first match sets the match variables, in the order of the script (RFC 5229 section 3.2).
    return blocks.flatMap((fields) =>
      wanted.flatMap((name) => {
        const found = placesNamed(fields, name).map((place) => {
          return { field: elementAt(fields, place), index: mime ? -1 : place };
        });
        return nth === null ? found : occurrence(found, nth, fromEnd);
      }),
    );
  };
}

function partFields(run: Run, anychild: boolean): (readonly HeaderField[])[] {
  const top: MimePart = run.part ?? partsOf(run.message);
  const all = anychild ? [...walkParts(top)] : [top];
  return all.map((part) => part.fields);
}

/** The n-th of the fields of one name, counted from either end (RFC 5260 section 6). */
function occurrence(found: readonly Found[], nth: number, fromEnd: boolean): Found[] {
  const one = found[fromEnd ? found.length - nth : nth - 1];
  return one ? [one] : [];
}

export const headerCandidate = ({ field, index }: Found, value = field.value): Candidate => ({
  value,
  where:
    index < 0 ? { kind: 'other', what: `${field.name} of a part` } : { kind: 'header', name: field.name, field: index },
});

/** All mailboxes of a field, with one part of each as the value; addresses without that part are left out. */
export function addressCandidates(found: Found, part: string, separator: string): Candidate[] {
  return addressesOf(found.field).flatMap((address) => {
    const value = partOf(address, part, separator);
    return value === null ? [] : [headerCandidate(found, value)];
  });
}

/** RFC 5228 section 2.7.4; :user and :detail by RFC 5233 section 4: the split is at the first separator. */
export function partOf(address: Address, part: string, separator: string): string | null {
  const at = address.local.indexOf(separator);
  if (part === 'user') return at < 0 ? address.local : address.local.slice(0, at);
  if (part === 'detail') return at < 0 ? null : address.local.slice(at + separator.length);
  return addressPart(address, part === 'localpart' || part === 'domain' ? part : 'all');
}

/** RFC 5233 leaves the separator to the server; common practice is the plus sign. */
export const SEPARATOR = '+';
