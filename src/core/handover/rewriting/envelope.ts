import type { LeafTest, TestTree, TextMatch } from '../../rules/rule';
import { byTests, escaped, leaf } from './transformation';

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
