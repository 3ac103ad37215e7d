import { addressText } from '../mail/address';
import { conversationsOf, identifiersIn } from '../mail/conversations';
import { isOutgoing } from '../mail/direction';
import { addressesOf, fieldsNamed, type MailMessage } from '../mail/message';
import { listIdOf, storedFlags, summaryOf } from '../mail/summary';
import { elementAt } from '../text/element';
import type { StoredMail, StoredMessage } from './stored';

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
