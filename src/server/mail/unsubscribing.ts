import { Bitmap } from '../../core/flow/bitmap';
import { askingChain } from '../../core/repair/expectations';
import { offersUnsubscribing, UNSUBSCRIBING_WORDS } from '../../core/rules/unsubscribing';
import { type Audit, Refusal } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import { flowAtOnce } from '../chain/simulation';
import type { Store } from '../database/open';
import { messagesWithWords } from './word-index';

interface Unsubscribing {
  /** Messages with one of the words in their text. */
  readonly messages: Bitmap;
  /** The words that occur, so those of the languages of the stored mail. */
  readonly words: readonly string[];
}

const known = new Region<Unsubscribing>({
  name: 'words for unsubscribing',
  most: 16 * 1024 * 1024,
  weigh: ({ messages }) => messages.octets,
});

function unsubscribingIn(store: Store, audit: Audit): Unsubscribing {
  const key = `${mailKey(audit)} ${audit.messageCount}`;
  const before = known.get(key);
  if (before) return before;
  const messages = new Bitmap(audit.messageCount);
  const words = UNSUBSCRIBING_WORDS.filter((word) => {
    const found = messagesWithWords(store, audit.ordinal, `"${word}"`, 'body');
    for (const number of found) if (number < audit.messageCount) messages.add(number);
    return found.length > 0;
  });
  const found = { messages, words };
  known.set(key, found);
  return found;
}

/** The words for unsubscribing that occur in the texts of the stored mail. */
export const unsubscribingWords = (store: Store, audit: Audit): readonly string[] =>
  unsubscribingIn(store, audit).words;

/** Stored messages that offer a way to unsubscribe, or those that offer none. */
export function unsubscribable(store: Store, audit: Audit, wanted: 'offered' | 'none'): Bitmap {
  const field = flowAtOnce(store, audit, askingChain([{ tests: offersUnsubscribing([]) }]))?.entries[0]?.held;
  if (!field) throw new Refusal('The fields of the stored mail are being read. Try again in a moment.', 409);
  const offering = field.or(unsubscribingIn(store, audit).messages);
  return wanted === 'offered' ? offering : Bitmap.full(audit.messageCount).without(offering);
}
