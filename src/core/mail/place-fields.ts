import { isArchive, isSentFolder } from './places';

/** Places of messages from a header field, as mailboxes that were saved as one file have them. */

/** RFC 3501 section 5.1. */
const INBOX = 'INBOX';
const LONGEST = 200;

/** A message is in few places. */
const MOST_OF_ONE = 100;

/** The places that a value of such a field names: separated by commas or semicolons, or one; in quotation marks or not. */
export function placesIn(value: string): string[] {
  const names = new Set<string>();
  let [name, isQuoted] = ['', false];
  const end = () => {
    const plain = name.replace(/\p{Cc}+/gu, ' ').trim();
    if (plain !== '' && plain.length <= LONGEST) names.add(plain.toUpperCase() === INBOX ? INBOX : plain);
    name = '';
  };
  for (let at = 0; at < value.length && names.size < MOST_OF_ONE; at++) {
    const character = value.charAt(at);
    if (character === '"') isQuoted = !isQuoted;
    else if (isQuoted && character === '\\') name += value.charAt(++at);
    else if (!isQuoted && (character === ',' || character === ';')) end();
    else name += character;
  }
  if (names.size < MOST_OF_ONE) end();
  return [...names];
}

/** The place by which a message is listed: where it was put, rather than the inbox. */
export const mainPlace = (places: readonly string[]): string | null =>
  places.find((place) => place !== INBOX) ?? places[0] ?? null;

/** A field whose values look like places. */
export interface PlaceField {
  /** In lower case. */
  readonly name: string;
  /** Messages that have it. */
  readonly messages: number;
  /** The places with the most messages first. */
  readonly places: readonly { readonly place: string; readonly messages: number }[];
  /** Messages with several places. */
  readonly several: number;
}

/** Names that such fields have (common practice). */
const TELLING = /folder|mailbox|label|place|categor|(^|-)tags?$/;
/** Fields of the message itself, its way or its authors. */
const OTHER =
  /^(from|to|cc|bcc|sender|reply-to|subject|comments|date|message-id|in-reply-to|references|received|return-path|delivered-to|mime-version|precedence|importance|priority|x-priority|(list|content|resent|dkim|arc|authentication|received|auto)-.*|.*(mailer|agent|spam|virus|score|signature|version|id|date|to|from))$/;
const LEAST = 10;
/** A place has many messages: this many on average. */
const AVERAGE = 5;
const MOST_PLACES = 2000;

/** Whether values of a field can be places at all, by its name. */
export const mayBePlaces = (name: string): boolean => !OTHER.test(name);

/** Counts the values of one field, message by message. */
export class PlaceCounter {
  #messages = 0;
  #several = 0;
  readonly #places = new Map<string, number>();

  add(values: readonly string[]): void {
    const places = new Set(values.flatMap(placesIn));
    if (places.size === 0 || this.#places.size > MOST_PLACES) return;
    this.#messages++;
    if (places.size > 1) this.#several++;
    for (const place of places) this.#places.set(place, (this.#places.get(place) ?? 0) + 1);
  }

  /** Null if they do not look like places: too many, too few, or without a name that mailboxes have. */
  maybeField(name: string): PlaceField | null {
    const names = [...this.#places.keys()];
    if (this.#messages < LEAST || names.length < 2 || names.length > MOST_PLACES) return null;
    if (names.length * AVERAGE > this.#messages) return null;
    const isKnown = names.some((place) => place === INBOX || isSentFolder(place) || isArchive(place));
    if (!isKnown && !TELLING.test(name)) return null;
    const places = Array.from(this.#places, ([place, messages]) => ({ place, messages }));
    places.sort((a, b) => b.messages - a.messages);
    return { name, messages: this.#messages, places, several: this.#several };
  }
}
