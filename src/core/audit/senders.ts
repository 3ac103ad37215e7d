import type { Bitmap } from '../flow/bitmap';
import type { TestTree } from '../rules/rule';
import type { Valued } from './stored';

/** More addresses than this are no longer read in a rule. */
const MOST = 20;

/** The senders of messages, each once; none where there are too many for a rule. */
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
  test: { test: 'address', headers: ['from'], part: 'all', match: 'is', comparator: 'i;ascii-casemap', keys: senders },
});
