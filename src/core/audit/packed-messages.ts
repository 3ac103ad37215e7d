import { INBOX } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';
import type { Messages, StoredMessage } from './stored';

const SEEN = 1;
const ANSWERED = 2;
const FLAGGED = 4;
const OUTGOING = 8;
const THERE = 16;

/** A message without what belongs to the whole mail. */
export type PackedRow = Omit<StoredMessage, 'recipients' | 'conversation'>;

/**
 * Messages in some 50 octets each besides their distinct texts; as objects, a million of them take 2.5 GB. Each is an object only
 * while somebody looks at it. One that was never set belongs to a removed source: it is in the inbox and in no conversation.
 */
export class PackedMessages implements Messages {
  readonly #texts: string[] = [];
  #places: Map<string, number> | null = new Map();
  readonly #flags: Uint8Array;
  readonly #dates: Float64Array;
  /** Places in `#texts`, plus one; 0 for null. */
  readonly #folders: Uint32Array;
  readonly #senders: Uint32Array;
  readonly #names: Uint32Array;
  readonly #subjects: Uint32Array;
  readonly #lists: Uint32Array;
  #recipients: readonly Recipients[] = [];
  #conversations: ArrayLike<number> | null = null;

  constructor(readonly length: number) {
    this.#flags = new Uint8Array(length);
    this.#dates = new Float64Array(length).fill(Number.NaN);
    const texts = () => new Uint32Array(length);
    [this.#folders, this.#senders, this.#names, this.#subjects, this.#lists] = [
      texts(),
      texts(),
      texts(),
      texts(),
      texts(),
    ];
  }

  set(number: number, row: PackedRow): void {
    this.#flags[number] =
      (row.seen ? SEEN : 0) |
      (row.answered ? ANSWERED : 0) |
      (row.flagged ? FLAGGED : 0) |
      (row.outgoing ? OUTGOING : 0) |
      THERE;
    this.#dates[number] = row.date ?? Number.NaN;
    this.#folders[number] = this.#placeOf(row.folder);
    this.#senders[number] = this.#placeOf(row.sender);
    this.#names[number] = this.#placeOf(row.senderName);
    this.#subjects[number] = this.#placeOf(row.subject);
    this.#lists[number] = this.#placeOf(row.listId);
  }

  /** Nothing is set afterwards. Conversations are the messages themselves where they are not known. */
  finish(recipients: readonly Recipients[], conversations: ArrayLike<number> | null): this {
    this.#places = null;
    this.#recipients = recipients;
    this.#conversations = conversations;
    return this;
  }

  at(number: number): StoredMessage | undefined {
    return number >= 0 && number < this.length ? new PackedMessage(this, number) : undefined;
  }

  *[Symbol.iterator](): Iterator<StoredMessage> {
    for (let number = 0; number < this.length; number++) yield new PackedMessage(this, number);
  }

  has(number: number, flag: number): boolean {
    return (elementAt(this.#flags, number) & flag) !== 0;
  }

  text(column: 'folders' | 'senders' | 'names' | 'subjects' | 'lists', number: number): string | null {
    const place = elementAt(this.#columnOf(column), number);
    return place === 0 ? null : elementAt(this.#texts, place - 1);
  }

  date(number: number): number | null {
    const date = elementAt(this.#dates, number);
    return Number.isNaN(date) ? null : date;
  }

  recipients(number: number): readonly string[] {
    return [...new Set(this.#recipients.flatMap((field) => field.of(number)))];
  }

  conversation(number: number): number {
    if (!this.has(number, THERE)) return -1;
    return this.#conversations?.[number] ?? number;
  }

  #columnOf(column: Parameters<PackedMessages['text']>[0]): Uint32Array {
    switch (column) {
      case 'folders':
        return this.#folders;
      case 'senders':
        return this.#senders;
      case 'names':
        return this.#names;
      case 'subjects':
        return this.#subjects;
      default:
        return this.#lists;
    }
  }

  #placeOf(text: string | null): number {
    if (text === null) return 0;
    if (!this.#places) throw new Error('the messages are finished');
    const known = this.#places.get(text);
    if (known !== undefined) return known;
    this.#texts.push(text);
    this.#places.set(text, this.#texts.length);
    return this.#texts.length;
  }
}

class PackedMessage implements StoredMessage {
  constructor(
    readonly all: PackedMessages,
    readonly number: number,
  ) {}

  get folder(): string | null {
    return this.all.has(this.number, THERE) ? this.all.text('folders', this.number) : INBOX;
  }
  get seen(): boolean {
    return this.all.has(this.number, SEEN);
  }
  get answered(): boolean {
    return this.all.has(this.number, ANSWERED);
  }
  get flagged(): boolean {
    return this.all.has(this.number, FLAGGED);
  }
  get outgoing(): boolean {
    return this.all.has(this.number, OUTGOING);
  }
  get sender(): string {
    return this.all.text('senders', this.number) ?? '';
  }
  get senderName(): string {
    return this.all.text('names', this.number) ?? '';
  }
  get subject(): string {
    return this.all.text('subjects', this.number) ?? '';
  }
  get listId(): string | null {
    return this.all.text('lists', this.number);
  }
  get date(): number | null {
    return this.all.date(this.number);
  }
  get recipients(): readonly string[] {
    return this.all.recipients(this.number);
  }
  get conversation(): number {
    return this.all.conversation(this.number);
  }
}

/** The addresses in one field of each message. */
export class Recipients {
  /** For each message, where its addresses start in `#places`. */
  readonly #starts: Uint32Array;
  readonly #places: Uint32Array;

  /** Message numbers ascend, and stand there once for each address; `places` are those of its address in `addresses`. */
  constructor(
    readonly addresses: readonly string[],
    messages: Uint32Array,
    places: Uint32Array,
    count: number,
  ) {
    this.#places = places;
    this.#starts = new Uint32Array(count + 1).fill(messages.length);
    for (let at = messages.length - 1; at >= 0; at--) this.#starts[elementAt(messages, at)] = at;
    for (let number = count - 1; number >= 0; number--) {
      if (this.#starts[number] === messages.length) this.#starts[number] = elementAt(this.#starts, number + 1);
    }
  }

  of(number: number): string[] {
    const [start, end] = [elementAt(this.#starts, number), elementAt(this.#starts, number + 1)];
    return Array.from(this.#places.subarray(start, end), (place) => elementAt(this.addresses, place));
  }
}
