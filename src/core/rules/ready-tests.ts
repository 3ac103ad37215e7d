import type { LeafTest, TestTree } from './rule';

/** Conditions that people have a name for, in the one form in which all parts of the application write them. */

const COMPARATOR = 'i;ascii-casemap';

/** Where words that may be anywhere in a message are looked for, beside its body. */
export const ANYWHERE_FIELDS = ['subject', 'from', 'to', 'cc'];

/** Fields and words that mark a message as urgent (RFC 4021 sections 2.1.54 and 2.1.55; X-Priority is common practice). */
export const IMPORTANT_MAIL: LeafTest = {
  test: 'header',
  headers: ['importance', 'priority', 'x-priority'],
  match: 'matches',
  comparator: COMPARATOR,
  keys: ['high', 'urgent', '1', '1 *', '2', '2 *'],
};

/** A MIME part marked as an attachment (RFC 2183 section 2.2), at any depth (RFC 5703 section 4.2). */
export const WITH_ATTACHMENT: LeafTest = {
  test: 'compared',
  subject: { of: 'header', headers: ['content-disposition'], within: 'all parts' },
  by: { match: 'contains', comparator: COMPARATOR, keys: ['attachment'] },
};

/** One of these addresses is the only one in To and Cc. */
export const ONLY_TO = (addresses: readonly string[]): TestTree => ({
  kind: 'all',
  children: [
    {
      kind: 'leaf',
      test: {
        test: 'address',
        headers: ['to', 'cc'],
        part: 'all',
        match: 'is',
        comparator: COMPARATOR,
        keys: addresses,
      },
    },
    {
      kind: 'leaf',
      test: {
        test: 'compared',
        subject: { of: 'address', headers: ['to', 'cc'], part: 'all' },
        by: { match: 'count', relation: 'eq', comparator: 'i;ascii-numeric', keys: ['1'] },
      },
    },
  ],
});
