import { type Address, addressText, parseAddressList } from './address';
import { type HeaderField, readHeaders } from './headers';
import { type MimePart, readableText, readParts, walkParts } from './parts';

/** A message as the rules see it. */
export interface MailMessage {
  readonly fields: readonly HeaderField[];
  /** Octets with every line ended by CRLF, as RFC 5228 section 5.9 counts them, whatever the store wrote. */
  readonly size: number;
  /** Everything behind the header, undecoded. */
  readonly body: Uint8Array;
}

/** The envelope (RFC 5228 section 5.4): the null reverse-path is the empty string; null where it is not known. */
export interface Envelope {
  readonly from: string | null;
  readonly to: string | null;
}

/** Reads what the rules look at from the octets of a message. Never throws. */
export function readMessage(raw: Uint8Array): MailMessage {
  const { fields, bodyStart } = readHeaders(raw);
  return { fields, size: sizeWithCrlf(raw), body: raw.subarray(bodyStart) };
}

const partsCache = new WeakMap<MailMessage, MimePart>();

/** The MIME structure of a message; read once, when it is first asked for. */
export function partsOf(message: MailMessage): MimePart {
  let parts = partsCache.get(message);
  if (!parts) {
    parts = readParts(message.fields, message.body);
    partsCache.set(message, parts);
  }
  return parts;
}

/** The words of each text part, HTML reduced to them (RFC 5173 section 5.3). */
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

/** All fields of a name, caseless, in the order of the message (RFC 5228 section 2.4.2.2). */
export function fieldsNamed(message: MailMessage, name: string): HeaderField[] {
  const wanted = name.toLowerCase();
  return message.fields.filter((field) => field.name.toLowerCase() === wanted);
}

/** The fields that hold addresses (RFC 5322 section 3.6, and what common practice adds to them). */
const ADDRESS_FIELDS =
  /^((resent-)?(from|sender|reply-to|to|cc|bcc)|return-path|delivered-to|x-original-to|envelope-to|errors-to|mail-followup-to|disposition-notification-to)$/i;

const addressCache = new WeakMap<HeaderField, readonly Address[]>();

/**
 * The mailboxes of one field; parsed once. Only fields that hold addresses, or in which an @ stands, have any: the
 * address test is meant for such fields alone (RFC 5228 section 5.1).
 */
export function addressesOf(field: HeaderField): readonly Address[] {
  let addresses = addressCache.get(field);
  if (!addresses) {
    addresses = ADDRESS_FIELDS.test(field.name) || field.raw.includes('@') ? parseAddressList(field.raw) : [];
    addressCache.set(field, addresses);
  }
  return addresses;
}

/** The address that a message was delivered to, where it tells (common practice). */
export function recipientOf(message: MailMessage): string | null {
  for (const name of ['delivered-to', 'x-original-to', 'envelope-to']) {
    const field = fieldsNamed(message, name)[0];
    const address = field && addressesOf(field)[0];
    if (address) return addressText(address);
  }
  return null;
}

/**
 * Sender from Return-Path (RFC 5321 section 4.4); recipient as the message tells it, else as given: the account that was
 * chosen, or the first of the own addresses.
 */
export function envelopeOf(message: MailMessage, recipient: string | null): Envelope {
  const path = fieldsNamed(message, 'return-path')[0]?.raw ?? null;
  const from = path === null ? null : (/<([^>]*)>/.exec(path)?.[1] ?? path).trim();
  return { from, to: recipientOf(message) ?? recipient };
}
