import { isFrom } from '../audit/senders';
import type { Valued } from '../audit/stored';
import type { Bitmap } from '../flow/bitmap';
import { blankRule, type Rule } from '../rules/rule';

/** A sender of mail that nobody wants, and that offers no way to unsubscribe. */
export interface UnwantedSender {
  /** In lower case. */
  readonly address: string;
  /** All its mail: message numbers, ascending. */
  readonly messages: readonly number[];
  /** Those that were never read, and those in a folder for unwanted mail. */
  readonly unread: number;
  readonly thrown: number;
}

/** Fewer messages say too little about a sender. */
const LEAST = 3;
/** Later mail may still be read. */
const DAYS = 30;
const DAY = 24 * 60 * 60 * 1000;
const MOST = 20;

/** Folders in which people and servers put unwanted mail, in several languages (common practice). */
const FOR_UNWANTED =
  /(^|[/.\\])(junk|spam|trash|bin|bulk mail|deleted( items| messages)?|unwanted|papierkorb|gelöschte .*|werbung|corbeille|indésirables|papelera|basura|cestino|prullenbak|ongewenst)( e-?mail| mail)?$/i;

/**
 * Senders whose mail is unwanted: three messages at least, none of which offers a way to unsubscribe, and each of them
 * thrown away or left unread for a month; nobody whom the user has written to, answered or flagged. Common practice is
 * to discard their mail by the exact address. `offering` are the messages that offer a way. Those with the most mail
 * come first.
 */
export function unwantedSenders(mail: Valued, offering: Bitmap): UnwantedSender[] {
  const bySender = new Map<string, number[]>();
  for (let number = 0; number < mail.mail.messages.length; number++) {
    const { sender } = mail.message(number);
    if (sender === '' || mail.sent.has(number) || mail.mail.own.has(sender)) continue;
    const own = bySender.get(sender);
    if (own) own.push(number);
    else bySender.set(sender, [number]);
  }
  const oldest = (mail.newest ?? 0) - DAYS * DAY;
  const isThrown = (number: number) => FOR_UNWANTED.test(mail.message(number).folder ?? '');
  const isUnread = (number: number) => {
    const { date } = mail.message(number);
    return mail.marksKnown && mail.unseen.has(number) && date !== null && date < oldest;
  };
  const isBulkOrValued = (number: number) =>
    offering.has(number) || mail.known.has(number) || mail.marked.has(number) || mail.message(number).listId !== null;
  return [...bySender]
    .flatMap(([address, messages]): UnwantedSender[] => {
      if (messages.length < LEAST || messages.some(isBulkOrValued)) return [];
      if (!messages.every((number) => isThrown(number) || isUnread(number))) return [];
      const unread = messages.filter(isUnread).length;
      return [{ address, messages, unread, thrown: messages.filter(isThrown).length }];
    })
    .sort((a, b) => b.messages.length - a.messages.length)
    .slice(0, MOST);
}

/** The rule that discards mail of exactly these addresses. */
export const discarding = (addresses: readonly string[]): Rule => ({
  ...blankRule('unwanted'),
  name: 'Unwanted mail that offers no way to unsubscribe',
  tests: isFrom(addresses),
  actions: [{ action: 'discard' }],
  ending: 'stop',
});
