import { Bitmap } from '../flow/bitmap';
import { addressText, domainOf } from '../mail/address';
import { failedRecipients } from '../mail/bounces';
import { conversationsOf, identifiersIn } from '../mail/conversations';
import { addressesOf, fieldsNamed, type MailMessage } from '../mail/message';
import { type FolderUse, isOutgoing, maybeUse } from '../mail/places';
import { listIdOf, storedFlags, summaryOf } from '../mail/summary';
import { elementAt } from '../text/lookup';
import { atOnce, type Steps } from './stepwise';

/** What findings need of a stored message, besides what tests read. */
export interface StoredMessage {
  /** Its folder; null if unknown. */
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
  /** Whether it is the author's own copy; see `isOutgoing`. */
  readonly outgoing: boolean;
  /** Equal numbers for messages of one conversation. */
  readonly conversation: number;
}

/** Messages by number: an array, or one that makes them when they are looked at. */
export interface Messages extends Iterable<StoredMessage> {
  readonly length: number;
  at(number: number): StoredMessage | undefined;
}

/** The stored mail as a whole. */
export interface StoredMail {
  /** By the number of the message. */
  readonly messages: Messages;
  /** The user's own addresses, in lower case. */
  readonly own: ReadonlySet<string>;
  /** Existing folders; null if unknown. */
  readonly folders: ReadonlySet<string> | null;
  /** What folders are for, where their server says so. */
  readonly uses: ReadonlyMap<string, FolderUse>;
  /** Names of the fields that any message has, in lower case; empty if unknown. */
  readonly fieldNames: ReadonlySet<string>;
  /** By address in lower case: the messages that report that mail to it failed (RFC 3464). */
  readonly bounces: ReadonlyMap<string, readonly number[]>;
}

/** The stored mail with evidence of what the user values, as bitmaps and message numbers. */
export interface Valued {
  readonly mail: StoredMail;
  /** People the user has written to. */
  readonly writtenTo: ReadonlySet<string>;
  /** From people the user has written to. */
  readonly known: Bitmap;
  /** Answered or flagged. */
  readonly marked: Bitmap;
  /** To one of the user's own addresses alone, and by no mailing list. */
  readonly alone: Bitmap;
  readonly unseen: Bitmap;
  /** Sent by the user; mail from an own address that was delivered counts as incoming. */
  readonly sent: Bitmap;
  /** Whether any message is marked as seen; otherwise it is unknown what was seen. */
  readonly marksKnown: boolean;
  /** The date of the newest messages; a few with dates after all others, as unwanted mail has, do not count. */
  readonly newest: number | null;
  /** Whether all received mail is in one known folder, so that it does not tell how the user files mail. */
  readonly isOneFolder: boolean;
  /** Numbers of messages by display name in lower case, by the sender's domain, and by list. */
  readonly byName: ReadonlyMap<string, readonly number[]>;
  readonly byDomain: ReadonlyMap<string, readonly number[]>;
  readonly byList: ReadonlyMap<string, readonly number[]>;
  message(number: number): StoredMessage;
  /** What a folder is for; null if it is for any mail. */
  purposeOf(folder: string): FolderUse | null;
}

/** Messages that the user sent: they tell whom the user knows, but no rule saw them. */
export function sentIn({ messages, own }: Pick<StoredMail, 'messages' | 'own'>): Bitmap {
  const sent = new Bitmap(messages.length);
  let number = 0;
  for (const { sender, outgoing } of messages) {
    if (outgoing && own.has(sender)) sent.add(number);
    number++;
  }
  return sent;
}

/** The messages that run through chains: all but sent mail; null for all. */
export function trafficIn(mail: Pick<StoredMail, 'messages' | 'own'>): Bitmap | null {
  const sent = sentIn(mail);
  return sent.isEmpty() ? null : sent.not();
}

/** Messages processed in one step. */
const STEP = 8192;

/** Computes it in short steps, so that a server can respond in between. */
export function* valuing(mail: StoredMail): Steps<Valued> {
  const { messages, own } = mail;
  const sent = sentIn(mail);
  yield;
  const writtenTo = new Set<string>();
  for (const number of sent.members()) {
    for (const address of messages.at(number)?.recipients ?? []) if (!own.has(address)) writtenTo.add(address);
  }
  const empty = () => new Bitmap(messages.length);
  const [known, marked, alone, unseen] = [empty(), empty(), empty(), empty()];
  const [byName, byDomain, byList] = [new Groups(), new Groups(), new Groups()];
  const dates: number[] = [];
  let marksKnown = false;
  const folders = new Set<string | null>();
  let number = -1;
  for (const message of messages) {
    if (++number % STEP === 0) yield;
    const { sender, senderName, answered, flagged, folder, listId, recipients, seen, date } = message;
    if (!sent.has(number)) folders.add(folder);
    if (writtenTo.has(sender)) known.add(number);
    if (answered || flagged) marked.add(number);
    if (listId === null && recipients.length === 1 && own.has(elementAt(recipients, 0))) alone.add(number);
    if (seen) marksKnown = true;
    else unseen.add(number);
    if (date !== null) dates.push(date);
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
    newest: newestOf(dates),
    isOneFolder: folders.size === 1 && !folders.has(null),
    byName,
    byDomain,
    byList,
    message: (number) => {
      const message = messages.at(number);
      if (!message) throw new Error(`there is no message ${number}`);
      return message;
    },
    purposeOf: (folder) => maybeUse(folder, mail.uses),
  };
}

/** Of this many messages, one may have a wrong date. */
const FEW_WRONG = 200;

function newestOf(dates: readonly number[]): number | null {
  const sorted = Float64Array.from(dates).sort();
  return sorted[sorted.length - 1 - Math.floor(sorted.length / FEW_WRONG)] ?? null;
}

/** The same at once; `between` may throw to cancel. */
export const valued = (mail: StoredMail, between?: () => void): Valued => atOnce(valuing(mail), between);

/** Message numbers by a name, ascending; messages without one are left out. */
class Groups extends Map<string, number[]> {
  put(key: string, number: number): void {
    const group = this.get(key);
    if (group) group.push(number);
    else if (key !== '') this.set(key, [number]);
  }
}

/** A parsed message, with its folder and flags. */
export interface ReadMail {
  readonly message: MailMessage;
  readonly folder: string | null;
  /** Flags in addition to those of its Status fields. */
  readonly flags: readonly string[];
}

/** Collects what findings need, message by message, when mail is read from files. */
export class MailGatherer {
  readonly #messages: Omit<StoredMessage, 'conversation'>[] = [];
  readonly #folders = new Set<string>();
  readonly #fieldNames = new Set<string>();
  readonly #bounces = new Map<string, number[]>();
  readonly #ties: { readonly messageId: string | null; readonly references: readonly string[] }[] = [];

  /** An existing folder, even if it is empty. */
  addFolder(folder: string): void {
    this.#folders.add(folder);
  }

  add({ message, folder, flags }: ReadMail): void {
    for (const { name } of message.fields) this.#fieldNames.add(name.toLowerCase());
    for (const address of failedRecipients(message)) {
      this.#bounces.set(address, [...(this.#bounces.get(address) ?? []), this.#messages.length]);
    }
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
    return {
      messages,
      own: new Set(own.map((address) => address.toLowerCase())),
      folders,
      uses: new Map(),
      fieldNames: this.#fieldNames,
      bounces: this.#bounces,
    };
  }
}
