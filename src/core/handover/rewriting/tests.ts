import { maybeRegexMatch } from '../../rules/known-comparisons';
import { readTest, testNode } from '../../rules/nodes';
import type { LeafTest, TestTree, TextMatch } from '../../rules/rule';
import { maybeComparator } from '../../sieve/match/comparators';
import { elementAt } from '../../text/lookup';
import { expandedRegex } from './regex-forms';
import { byTests, escaped, leaf } from './transformation';

const UNICODE = 'i;unicode-casemap';

/**
 * Without i;unicode-casemap (RFC 5051): by i;ascii-casemap; each key with non-ASCII letters in lower case, upper case,
 * and with capitalised words. Other mixtures, and other Unicode normalisation forms, are missed.
 */
export const withoutUnicodeCasemap = byTests(
  maybeComparator(UNICODE)?.capability ?? '',
  'non-ASCII letters match only as written in the rule, or all in lower or upper case',
  inAscii,
);

function inAscii(test: LeafTest): TestTree {
  if (!('keys' in test) || test.comparator !== UNICODE) return leaf(test);
  return leaf({ ...test, comparator: 'i;ascii-casemap', keys: [...new Set(test.keys.flatMap(spellings))] });
}

function spellings(key: string): string[] {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: what is not ASCII
  if (/^[\x00-\x7f]*$/.test(key)) return [key];
  const small = key.toLowerCase();
  const begun = small.replace(/(^|[^\p{L}\p{M}])(\p{L})/gu, (_, before, letter) => before + letter.toUpperCase());
  return [key, small, key.toUpperCase(), begun];
}

/**
 * Without `relational` (RFC 5231): tests of presence for counts of none or one; `:is` for equality. Every message is
 * treated alike. Other numbers and orders are not portable.
 */
export const withoutRelational = byTests('relational', null, withoutRelation);

function withoutRelation(test: LeafTest): TestTree | null {
  if (test.test !== 'compared') return null;
  const { subject, by } = test;
  if (subject.of !== 'header' && subject.of !== 'address') return null;
  const isWhole = !subject.occurrence && !subject.within && !(subject.of === 'header' && subject.option);
  if (!isWhole || (by.match !== 'value' && by.match !== 'count')) return null;
  const { headers } = subject;
  const { relation, keys } = by;
  if (by.match === 'value') {
    if (relation !== 'eq') return null;
    const match = { match: 'is', comparator: by.comparator, keys } as const;
    if (subject.of === 'header') return leaf({ test: 'header', headers, ...match });
    const { part } = subject;
    return part === 'user' || part === 'detail' ? null : leaf({ test: 'address', headers, part, ...match });
  }
  // A field may be present without containing an address.
  if (subject.of !== 'header' || keys.length !== 1) return null;
  const there = headers.map((header) => leaf({ test: 'exists', headers: [header] }));
  switch (`${relation} ${keys[0]}`) {
    case 'ge 1':
    case 'gt 0':
    case 'ne 0':
      return headers.length === 1 ? elementAt(there, 0) : { kind: 'any', children: there };
    case 'eq 0':
    case 'lt 1':
    case 'le 0':
      return { kind: 'none', children: there };
    default:
      return null;
  }
}

/**
 * Without `envelope` (RFC 5228 section 5.4): the sender by Return-Path, which the last server writes (RFC 5321 section
 * 4.4); the recipient by Delivered-To (common practice), To and Cc. Neither may be present when the script runs.
 * Servers may not treat these two fields as address fields (section 5.1), so they are compared as texts.
 */
export const withoutEnvelope = byTests(
  'envelope',
  'envelope addresses are taken from header fields, which may differ',
  byHeader,
);

type EnvelopeTest = Extract<LeafTest, { test: 'envelope' }>;

function byHeader(test: LeafTest): TestTree {
  // Tests kept as Sieve are left to the user; other tests beside them are rewritten.
  if (test.test !== 'envelope') return leaf(test);
  const { parts, part, match, comparator, keys } = test;
  const children = parts.flatMap((name): TestTree[] =>
    name === 'from'
      ? [asText('return-path', test, ['<', '>'])]
      : [
          asText('delivered-to', test, ['', '']),
          leaf({ test: 'address', headers: ['to', 'cc'], part, match, comparator, keys }),
        ],
  );
  const [only, another] = children;
  return only && !another ? only : { kind: 'any', children };
}

/** The same for an address between two delimiters in the text of a field. */
function asText(
  header: string,
  { part, match, comparator, keys }: EnvelopeTest,
  [open, close]: [string, string],
): TestTree {
  const compared = (kind: TextMatch['match'], forms: readonly string[]): TestTree =>
    leaf({ test: 'header', headers: [header], match: kind, comparator, keys: forms });
  if (part === 'all') {
    return match === 'contains'
      ? compared('contains', keys)
      : compared(
          match,
          keys.map((key) => `${open}${key}${close}`),
        );
  }
  // A key within a pattern, surrounded by wildcards for a substring.
  const inner = keys.map((key) => (match === 'matches' ? key : match === 'is' ? escaped(key) : `*${escaped(key)}*`));
  return compared(
    'matches',
    inner.map((form) => (part === 'domain' ? `*@${form}${close}` : `${open}${form}@*`)),
  );
}

/**
 * Without `index` (RFC 5260 section 6): all fields of the name are compared. Equivalent if a message has the field
 * once, as RFC 5322 section 3.6 requires for many fields.
 */
export const withoutIndex = byTests('index', 'all fields of that name are compared, not just one of them', ofAll);

function ofAll(test: LeafTest): TestTree | null {
  if (test.test !== 'compared' || !('occurrence' in test.subject)) return null;
  const { occurrence: _, ...subject } = test.subject;
  // Read again, so that it becomes a plain test if possible.
  return readTest(testNode(leaf({ ...test, subject })));
}

/**
 * Without `subaddress` (RFC 5233): by the local part, which is user, plus sign, detail. A detail that contains a plus
 * sign is taken for a longer one.
 */
export const withoutSubaddress = byTests('subaddress', 'user and detail are separated at “+” only', byLocalPart);

function byLocalPart(test: LeafTest): TestTree | null {
  if (test.test !== 'compared' || (test.subject.of !== 'address' && test.subject.of !== 'envelope')) return null;
  const { subject, by } = test;
  if (by.match !== 'is' || (subject.part !== 'user' && subject.part !== 'detail')) return null;
  const isDetail = subject.part === 'detail';
  // A user part contains no plus sign.
  const keys = by.keys.filter((key) => isDetail || !key.includes('+')).map(escaped);
  if (keys.length === 0) return { kind: 'any', children: [] };
  const forms = isDetail ? keys.map((key) => `*+${key}`) : keys.flatMap((key) => [key, `${key}+*`]);
  const sought = { part: 'localpart', match: 'matches', comparator: by.comparator, keys: forms } as const;
  if (subject.of === 'address') return leaf({ test: 'address', headers: subject.headers, ...sought });
  const parts = subject.parts.filter((which) => which === 'from' || which === 'to');
  return parts.length === subject.parts.length ? leaf({ test: 'envelope', parts, ...sought }) : null;
}

/**
 * Without `regex` (draft-ietf-sieve-regex): as keys if the expression stands for few texts, as patterns of `:matches`
 * if it leaves open what is between them. Other expressions are not portable.
 */
export const withoutRegex = byTests('regex', null, asForms);

function asForms(test: LeafTest): TestTree | null {
  const found = maybeRegexMatch(test);
  if (!found) return null;
  const forms = found.keys.map(expandedRegex);
  if (forms.some((some) => some === null)) return null;
  const all = [...new Set(forms.flatMap((some) => some ?? []))];
  const match: TextMatch = { match: 'matches', comparator: found.comparator, keys: all };
  if (found.part === 'text') return leaf({ test: 'header', headers: found.fields, ...match });
  return leaf({ test: 'address', headers: found.fields, part: found.part, ...match });
}
