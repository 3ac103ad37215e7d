import { elementAt } from '../text/lookup';
import { detached } from '../text/octets';
import { type Address, addressText, parseAddressList } from './address';
import { type HeaderField, placesNamed, readHeaders } from './headers';
import { type MimePart, readableText, readParts, walkParts } from './parts';

/** A message as rules see it. */
export interface MailMessage {
  readonly fields: readonly HeaderField[];
  /** Octets with every line ended by CRLF, as RFC 5228 section 5.9 counts them, however the mail was stored. */
  readonly size: number;
  /** Everything after the header, undecoded. */
  readonly body: Uint8Array;
}

/** The envelope (RFC 5228 section 5.4): the null reverse-path is the empty string; null if unknown. */
export interface Envelope {
  readonly from: string | null;
  readonly to: string | null;
}

/** Reads what rules need from the octets of a message. Never throws. */
export function readMessage(raw: Uint8Array): MailMessage {
  const { fields, bodyStart } = readHeaders(raw);
  return { fields, size: sizeWithCrlf(raw), body: raw.subarray(bodyStart) };
}

const partsCache = new WeakMap<MailMessage, MimePart>();

/** The MIME structure of a message; read lazily, once. */
export function partsOf(message: MailMessage): MimePart {
  let parts = partsCache.get(message);
  if (!parts) {
    parts = readParts(message.fields, message.body);
    partsCache.set(message, parts);
  }
  return parts;
}

/** The text of each text part, HTML reduced to its text (RFC 5173 section 5.3). */
export function readableTexts(message: MailMessage): string[] {
  const texts: string[] = [];
  for (const part of walkParts(partsOf(message))) if (part.type.startsWith('text/')) texts.push(readableText(part));
  return texts;
}

/** Each LF without a CR before it counts as two octets. */
export function sizeWithCrlf(raw: Uint8Array): number {
  let size = raw.length;
  for (let at = raw.indexOf(10); at >= 0; at = raw.indexOf(10, at + 1)) {
    if (at === 0 || raw[at - 1] !== 13) size++;
  }
  return size;
}

/** All fields of a name, caseless, in message order (RFC 5228 section 2.4.2.2). */
export const fieldsNamed = (message: MailMessage, name: string): readonly HeaderField[] =>
  placesNamed(message.fields, name).map((place) => elementAt(message.fields, place));

/** Address fields (RFC 5322 section 3.6, and those of common practice). */
const ADDRESS_FIELDS =
  /^((resent-)?(from|sender|reply-to|to|cc|bcc)|return-path|delivered-to|x-original-to|envelope-to|errors-to|mail-followup-to|disposition-notification-to)$/i;

/** Lists of addresses read lately, by their text: most are in many messages. */
const recentLists = new Map<string, readonly Address[]>();
const MOST_RECENT = 4096;
/** Characters of a text that is kept there; longer ones are kept with their field. */
const LONGEST_RECENT = 500;
const longLists = new WeakMap<HeaderField, readonly Address[]>();
const NO_ADDRESSES: readonly Address[] = [];

/**
 * The mailboxes of one field, parsed once. Only address fields, or fields with an @, have any: the address test is
 * meant for such fields alone (RFC 5228 section 5.1).
 */
export function addressesOf(field: HeaderField): readonly Address[] {
  const { name, raw } = field;
  if (!raw.includes('@') && !ADDRESS_FIELDS.test(name)) return NO_ADDRESSES;
  const isLong = raw.length > LONGEST_RECENT;
  const known = isLong ? longLists.get(field) : recentLists.get(raw);
  if (known) return known;
  const own = isLong ? raw : detached(raw);
  const addresses = parseAddressList(own);
  if (isLong) longLists.set(field, addresses);
  else {
    if (recentLists.size >= MOST_RECENT) recentLists.clear();
    recentLists.set(own, addresses);
  }
  return addresses;
}

/** The address a message was delivered to, if it names one (common practice). */
export function recipientOf(message: MailMessage): string | null {
  for (const name of ['delivered-to', 'x-original-to', 'envelope-to']) {
    const field = fieldsNamed(message, name)[0];
    const address = field && addressesOf(field)[0];
    if (address) return addressText(address);
  }
  return null;
}

/**
 * Sender from Return-Path (RFC 5321 section 4.4); recipient from the message, else as given: the chosen account, or the
 * first own address.
 */
export function envelopeOf(message: MailMessage, recipient: string | null): Envelope {
  const path = fieldsNamed(message, 'return-path')[0]?.raw ?? null;
  const from = path === null ? null : (/<([^>]*)>/.exec(path)?.[1] ?? path).trim();
  return { from, to: recipientOf(message) ?? recipient };
}
