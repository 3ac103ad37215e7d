import { Bitmap } from '../flow/bitmap';
import { addressText } from '../mail/address';
import { conversationsOf, identifiersIn } from '../mail/conversations';
import { addressesOf, fieldsNamed, type MailMessage } from '../mail/message';
import { isOutgoing } from '../mail/places';
import { listIdOf, storedFlags, summaryOf } from '../mail/summary';
import { elementAt } from '../text/lookup';
import { atOnce, type Steps } from './stepwise';

/** What findings look at in a stored message, beside what tests look at. */
export interface StoredMessage {
  /** Where it lies; null where that is not known. */
  readonly folder: string | null;
  readonly seen: boolean;
  readonly answered: boolean;
  readonly flagged: boolean;
  /** Address of the author in lower case; empty where there is none. */
  readonly sender: string;
  /** Display name of the author, or the address. */
  readonly senderName: string;
  /** Addresses of To and Cc in lower case. */
  readonly recipients: readonly string[];
  readonly subject: string;
  /** Milliseconds since 1970. */
  readonly date: number | null;
  /** In lower case, from List-Id (RFC 2919). */
  readonly listId: string | null;
  /** Whether it is the copy that its author kept; see `isOutgoing`. */
  readonly outgoing: boolean;
  /** The same number for messages of one conversation. */
  readonly conversation: number;
}

/** The stored mail as a whole. */
export interface StoredMail {
  /** By the number of the message. */
  readonly messages: readonly StoredMessage[];
  /** The user's own addresses, in lower case. */
  readonly own: ReadonlySet<string>;
  /** Folders that exist; null where that is not known. */
  readonly folders: ReadonlySet<string> | null;
}

/** The stored mail with what the user shows to value, as bitmaps over it and as numbers of messages. */
export interface Valued {
  readonly mail: StoredMail;
  /** People the user has written to. */
  readonly writtenTo: ReadonlySet<string>;
  /** From people the user has written to. */
  readonly known: Bitmap;
  /** Answered or flagged. */
  readonly marked: Bitmap;
  /** To one of the user's own addresses and to nobody else, and by no mailing list. */
  readonly alone: Bitmap;
  readonly unseen: Bitmap;
  /** Sent by the user; what came from an own address but arrived is incoming mail. */
  readonly sent: Bitmap;
  /** Whether any message is marked as seen; else nothing is known of that. */
  readonly marksKnown: boolean;
  /** The date of the newest message. */
  readonly newest: number | null;
  /** Numbers of messages by display name in lower case, by the sender's domain, and by list. */
  readonly byName: ReadonlyMap<string, readonly number[]>;
  readonly byDomain: ReadonlyMap<string, readonly number[]>;
  readonly byList: ReadonlyMap<string, readonly number[]>;
  message(number: number): StoredMessage;
}

/** The messages that the user sent: they tell whom the user knows, but no rule ever saw them. */
export function sentIn({ messages, own }: Pick<StoredMail, 'messages' | 'own'>): Bitmap {
  const sent = new Bitmap(messages.length);
  messages.forEach(({ sender, outgoing }, number) => {
    if (outgoing && own.has(sender)) sent.add(number);
  });
  return sent;
}

/** The messages that run through chains: all but those that the user sent; null for all. */
export function trafficIn(mail: Pick<StoredMail, 'messages' | 'own'>): Bitmap | null {
  const sent = sentIn(mail);
  return sent.isEmpty() ? null : sent.not();
}

/** Messages that are looked at in one step. */
const STEP = 8192;

/** Works it out in short steps, so that a server can answer in between. */
export function* valuing(mail: StoredMail): Steps<Valued> {
  const { messages, own } = mail;
  const sent = sentIn(mail);
  yield;
  const writtenTo = new Set<string>();
  for (const number of sent.members()) {
    for (const address of messages[number]?.recipients ?? []) if (!own.has(address)) writtenTo.add(address);
  }
  const empty = () => new Bitmap(messages.length);
  const [known, marked, alone, unseen] = [empty(), empty(), empty(), empty()];
  const [byName, byDomain, byList] = [new Groups(), new Groups(), new Groups()];
  let newest: number | null = null;
  let marksKnown = false;
  for (const [number, message] of messages.entries()) {
    if (number % STEP === 0) yield;
    const { sender, senderName, answered, flagged, listId, recipients, seen, date } = message;
    if (writtenTo.has(sender)) known.add(number);
    if (answered || flagged) marked.add(number);
    if (listId === null && recipients.length === 1 && own.has(elementAt(recipients, 0))) alone.add(number);
    if (seen) marksKnown = true;
    else unseen.add(number);
    if (date !== null && (newest === null || date > newest)) newest = date;
    byName.put(senderName.toLowerCase(), number);
    byDomain.put(domainOf(sender), number);
    byList.put(listId ?? '', number);
  }
  return {
    mail,
    writtenTo,
    known,
    marked,
    alone,
    unseen,
    sent,
    marksKnown,
    newest,
    byName,
    byDomain,
    byList,
    message: (number) => {
      const message = messages[number];
      if (!message) throw new Error(`there is no message ${number}`);
      return message;
    },
  };
}

/** All of it at once; `between` may throw to cancel. */
export const valued = (mail: StoredMail, between?: () => void): Valued => atOnce(valuing(mail), between);

export const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1);

/** Numbers of messages by some name of theirs, in ascending order; those without one are left out. */
class Groups extends Map<string, number[]> {
  put(key: string, number: number): void {
    const group = this.get(key);
    if (group) group.push(number);
    else if (key !== '') this.set(key, [number]);
  }
}

/** A message that was read, and what is known of where it lies. */
export interface ReadMail {
  readonly message: MailMessage;
  readonly folder: string | null;
  /** Flags beside those of its Status fields. */
  readonly flags: readonly string[];
}

/** Gathers what findings look at, message by message, where mail is read from files. */
export class MailGatherer {
  readonly #messages: Omit<StoredMessage, 'conversation'>[] = [];
  readonly #folders = new Set<string>();
  readonly #ties: { readonly messageId: string | null; readonly references: readonly string[] }[] = [];

  /** A folder that exists, even if no message is in it. */
  addFolder(folder: string): void {
    this.#folders.add(folder);
  }

  add({ message, folder, flags }: ReadMail): void {
    const { subject, from, fromAddress, date, messageId } = summaryOf(message);
    const all = new Set([...flags, ...storedFlags(message)]);
    const named = (name: string) => fieldsNamed(message, name);
    const recipients = [...named('to'), ...named('cc')].flatMap((field) => addressesOf(field).map(addressText));
    this.#messages.push({
      folder,
      seen: all.has('\\seen'),
      answered: all.has('\\answered'),
      flagged: all.has('\\flagged'),
      sender: fromAddress.toLowerCase(),
      senderName: from,
      recipients: [...new Set(recipients.map((address) => address.toLowerCase()))],
      subject,
      date,
      listId: listIdOf(message),
      outgoing: isOutgoing(message, folder),
    });
    const references = [...named('references'), ...named('in-reply-to')].flatMap(({ value }) => identifiersIn(value));
    this.#ties.push({ messageId: identifiersIn(messageId ?? '')[0] ?? null, references });
  }

  /** `own` are the user's own addresses. */
  mail(own: readonly string[]): StoredMail {
    const conversations = conversationsOf(this.#ties);
    const messages = this.#messages.map((message, number) => ({
      ...message,
      conversation: elementAt(conversations, number),
    }));
    const known = messages.flatMap(({ folder }) => folder ?? []);
    const folders = known.length > 0 || this.#folders.size > 0 ? new Set([...known, ...this.#folders]) : null;
    return { messages, own: new Set(own.map((address) => address.toLowerCase())), folders };
  }
}
