import { Bitmap } from '../flow/bitmap';

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

/** What is worked out of the stored mail, as bitmaps over it and as numbers of messages. */
interface Facts {
  /** People the user has written to. */
  readonly writtenTo: ReadonlySet<string>;
  /** From people the user has written to. */
  readonly known: Bitmap;
  /** Answered or flagged. */
  readonly marked: Bitmap;
  /** To one of the user's own addresses and to nobody else, and by no mailing list. */
  readonly alone: Bitmap;
  readonly unseen: Bitmap;
  /** By the user. */
  readonly sent: Bitmap;
  /** Whether any message is marked as seen; else nothing is known of that. */
  readonly marksKnown: boolean;
  /** The date of the newest message. */
  readonly newest: number | null;
  /** Numbers of messages by display name in lower case, by the sender's domain, and by list. */
  readonly byName: ReadonlyMap<string, readonly number[]>;
  readonly byDomain: ReadonlyMap<string, readonly number[]>;
  readonly byList: ReadonlyMap<string, readonly number[]>;
}

/** Works the facts out, one pass over the mail in each step, so that a server can answer in between. */
export function* valuing(mail: StoredMail): Generator<undefined, Valued, undefined> {
  const { messages, own } = mail;
  const select = (holds: (message: StoredMessage) => boolean): Bitmap => {
    const found = new Bitmap(messages.length);
    messages.forEach((message, number) => {
      if (holds(message)) found.add(number);
    });
    return found;
  };
  const sent = select(({ sender }) => own.has(sender));
  yield;
  const writtenTo = new Set<string>();
  for (const number of sent.members()) {
    for (const address of messages[number]?.recipients ?? []) if (!own.has(address)) writtenTo.add(address);
  }
  const known = select(({ sender }) => writtenTo.has(sender));
  yield;
  const marked = select(({ answered, flagged }) => answered || flagged);
  yield;
  const alone = select(({ recipients, listId }) => {
    return listId === null && recipients.length === 1 && own.has(recipients[0] as string);
  });
  yield;
  const unseen = select(({ seen }) => !seen);
  yield;
  let newest: number | null = null;
  for (const { date } of messages) if (date !== null && (newest === null || date > newest)) newest = date;
  const marksKnown = messages.some(({ seen }) => seen);
  yield;
  const byName = numbersBy(messages, ({ senderName }) => senderName.toLowerCase());
  yield;
  const byDomain = numbersBy(messages, ({ sender }) => domainOf(sender));
  yield;
  const byList = numbersBy(messages, ({ listId }) => listId ?? '');
  return new Valued(mail, {
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
  });
}

/** The stored mail with what the user shows to value. */
export class Valued implements Facts {
  readonly writtenTo: ReadonlySet<string>;
  readonly known: Bitmap;
  readonly marked: Bitmap;
  readonly alone: Bitmap;
  readonly unseen: Bitmap;
  readonly sent: Bitmap;
  readonly marksKnown: boolean;
  readonly newest: number | null;
  readonly byName: ReadonlyMap<string, readonly number[]>;
  readonly byDomain: ReadonlyMap<string, readonly number[]>;
  readonly byList: ReadonlyMap<string, readonly number[]>;

  constructor(
    readonly mail: StoredMail,
    facts: Facts = valued(mail),
  ) {
    this.writtenTo = facts.writtenTo;
    this.known = facts.known;
    this.marked = facts.marked;
    this.alone = facts.alone;
    this.unseen = facts.unseen;
    this.sent = facts.sent;
    this.marksKnown = facts.marksKnown;
    this.newest = facts.newest;
    this.byName = facts.byName;
    this.byDomain = facts.byDomain;
    this.byList = facts.byList;
  }

  message(number: number): StoredMessage {
    const message = this.mail.messages[number];
    if (!message) throw new Error(`there is no message ${number}`);
    return message;
  }

  domainOf(address: string): string {
    return domainOf(address);
  }
}

const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1);

/** All of it at once. */
function valued(mail: StoredMail): Valued {
  const steps = valuing(mail);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

function numbersBy(
  messages: readonly StoredMessage[],
  keyOf: (message: StoredMessage) => string,
): Map<string, readonly number[]> {
  const groups = new Map<string, number[]>();
  messages.forEach((message, number) => {
    const key = keyOf(message);
    const group = groups.get(key);
    if (group) group.push(number);
    else if (key !== '') groups.set(key, [number]);
  });
  return groups;
}
