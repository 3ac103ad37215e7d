import type { Bitmap } from '../flow/bitmap';
import type { TestTree } from '../rules/rule';
import type { StoredMessage, Valued } from './stored';

/** A rule with more addresses is unreadable. */
const MOST = 20;

const COMPARATOR = 'i;ascii-casemap';

/** The senders of messages, each once; none if there are too many for a rule. */
export function fewSenders(messages: Bitmap, mail: Valued): readonly string[] {
  const senders = new Set<string>();
  for (const number of messages.members()) {
    const { sender } = mail.message(number);
    if (sender !== '') senders.add(sender);
    if (senders.size > MOST) return [];
  }
  return [...senders];
}

/** The test for mail from any of these addresses. */
export const isFrom = (senders: readonly string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'address', headers: ['from'], part: 'all', match: 'is', comparator: COMPARATOR, keys: senders },
});

/** A test for mail with one of these addresses in some fields. */
export const addressedTo = (headers: readonly string[], addresses: readonly string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'address', headers, part: 'all', match: 'is', comparator: COMPARATOR, keys: addresses },
});

/** A test for mail from any address of these domains; of their subdomains too if wildcard keys are given. */
export const ofDomain = (domains: readonly string[], match: 'is' | 'matches' = 'is'): TestTree => ({
  kind: 'leaf',
  test: { test: 'address', headers: ['from'], part: 'domain', match, comparator: COMPARATOR, keys: domains },
});

/** The test for mail of these lists (RFC 2919). */
export const ofList = (ids: readonly string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['list-id'], match: 'contains', comparator: COMPARATOR, keys: ids },
});

/** The test for words in the subject. */
export const inSubject = (words: readonly string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['subject'], match: 'contains', comparator: COMPARATOR, keys: words },
});

/** The subject is missing or empty; spaces around it do not count (RFC 5228 section 5.7). */
export const NO_SUBJECT: TestTree = {
  kind: 'any',
  children: [
    { kind: 'none', children: [{ kind: 'leaf', test: { test: 'exists', headers: ['subject'] } }] },
    {
      kind: 'leaf',
      test: { test: 'header', headers: ['subject'], match: 'is', comparator: COMPARATOR, keys: [''] },
    },
  ],
};

/** The addresses of a set of messages by display name in lower case, of at least two words. */
export function addressesByName(messages: Bitmap, mail: Valued): ReadonlyMap<string, ReadonlySet<string>> {
  const addresses = new Map<string, Set<string>>();
  for (const number of messages.members()) {
    const { senderName, sender } = mail.message(number);
    const name = senderName.toLowerCase();
    if (name.includes(' ') && !name.includes('@')) addresses.set(name, (addresses.get(name) ?? new Set()).add(sender));
  }
  return addresses;
}

/**
 * Whether a message has a display name (at least two words) of some message of a set, and an address that is not in it.
 */
export function sameName(messages: Bitmap, mail: Valued): (message: StoredMessage) => boolean {
  const addresses = addressesByName(messages, mail);
  return ({ senderName, sender }) => {
    const known = addresses.get(senderName.toLowerCase());
    return known !== undefined && sender !== '' && !known.has(sender);
  };
}
