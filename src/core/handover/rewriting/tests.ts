import { maybeRegexMatch } from '../../rules/known-comparisons';
import { readTest, testNode } from '../../rules/nodes';
import type { LeafTest, TestTree, TextMatch } from '../../rules/rule';
import { maybeComparator } from '../../sieve/match/comparators';
import { elementAt } from '../../text/lookup';
import { expandedRegex } from './regex-forms';
import { byTests, escaped, leaf } from './transformation';

const UNICODE = 'i;unicode-casemap';

/**
 * Without i;unicode-casemap (RFC 5051): by i;ascii-casemap, with each key in small letters, in capitals and with its words in capitals
 * at their beginning, where it holds letters beyond ASCII. Other mixtures, and letters composed in another way, are missed.
 */
export const withoutUnicodeCasemap = byTests(
  maybeComparator(UNICODE)?.capability ?? '',
  'letters beyond ASCII must be written as in the rule, or all small or large',
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
 * Without `relational` (RFC 5231): whether a field is there at all, where its number is compared with none or one; equality as
 * `:is`. Every message ends the same. Other numbers and orders cannot be said.
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
  // A field may be there without holding any address.
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
 * Without `envelope` (RFC 5228 section 5.4): the sender by Return-Path, as the last server writes it (RFC 5321 section 4.4), the
 * recipient by Delivered-To (common practice), To and Cc. Neither need be there when the script runs. Servers may take these two
 * fields for none that hold addresses (section 5.1), so that they are compared as texts.
 */
export const withoutEnvelope = byTests(
  'envelope',
  'the envelope is looked for in header fields, which need not say the same',
  byHeader,
);

type EnvelopeTest = Extract<LeafTest, { test: 'envelope' }>;

function byHeader(test: LeafTest): TestTree {
  // What is kept as Sieve is left to the user, other tests beside it are not.
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

/** The same of an address that stands between two marks, as the text of a field. */
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
  // What a key stands for within a form: any text around it where it may stand anywhere.
  const inner = keys.map((key) => (match === 'matches' ? key : match === 'is' ? escaped(key) : `*${escaped(key)}*`));
  return compared(
    'matches',
    inner.map((form) => (part === 'domain' ? `*@${form}${close}` : `${open}${form}@*`)),
  );
}

/**
 * Without `index` (RFC 5260 section 6): all fields of the name are looked at. It is the same where a message has the field once, as
 * it should have those of RFC 5322 section 3.6.
 */
export const withoutIndex = byTests('index', 'of a field that a message has several times, all are looked at', ofAll);

function ofAll(test: LeafTest): TestTree | null {
  if (test.test !== 'compared' || !('occurrence' in test.subject)) return null;
  const { occurrence: _, ...subject } = test.subject;
  // Read again, so that what is no more than a plain test becomes one.
  return readTest(testNode(leaf({ ...test, subject })));
}

/**
 * Without `subaddress` (RFC 5233): by the local part, which is the user, then a plus sign, then the detail. A detail that itself
 * holds a plus sign is taken for a longer one.
 */
export const withoutSubaddress = byTests(
  'subaddress',
  'user and detail are told apart by the plus sign alone',
  byLocalPart,
);

function byLocalPart(test: LeafTest): TestTree | null {
  if (test.test !== 'compared' || (test.subject.of !== 'address' && test.subject.of !== 'envelope')) return null;
  const { subject, by } = test;
  if (by.match !== 'is' || (subject.part !== 'user' && subject.part !== 'detail')) return null;
  const isDetail = subject.part === 'detail';
  // No user has a plus sign in it.
  const keys = by.keys.filter((key) => isDetail || !key.includes('+')).map(escaped);
  if (keys.length === 0) return { kind: 'any', children: [] };
  const forms = isDetail ? keys.map((key) => `*+${key}`) : keys.flatMap((key) => [key, `${key}+*`]);
  const sought = { part: 'localpart', match: 'matches', comparator: by.comparator, keys: forms } as const;
  if (subject.of === 'address') return leaf({ test: 'address', headers: subject.headers, ...sought });
  const parts = subject.parts.filter((which) => which === 'from' || which === 'to');
  return parts.length === subject.parts.length ? leaf({ test: 'envelope', parts, ...sought }) : null;
}

/**
 * Without `regex` (draft-ietf-sieve-regex): as keys where the expression stands for few texts, as forms of `:matches` where it leaves
 * open what stands between them. Other expressions cannot be said.
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
