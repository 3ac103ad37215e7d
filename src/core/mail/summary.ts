import { addressText } from './address';
import { fieldDate } from './date';
import { placesNamed } from './headers';
import { addressesOf, fieldsNamed, type MailMessage, recipientOf } from './message';

/** What lists and findings show of a message. */
export interface MessageSummary {
  readonly messageId: string | null;
  readonly subject: string;
  /** Display name or address of the author. */
  readonly from: string;
  readonly fromAddress: string;
  readonly to: string;
  /** Milliseconds since 1970, or null where the Date field is absent or broken. */
  readonly date: number | null;
}

export function summaryOf(message: MailMessage): MessageSummary {
  const from = fieldsNamed(message, 'from')[0];
  const author = from ? addressesOf(from)[0] : undefined;
  const to = fieldsNamed(message, 'to').flatMap((field) => addressesOf(field).map(addressText));
  const id = fieldsNamed(message, 'message-id')[0]?.value ?? null;
  return {
    messageId: id === '' ? null : id,
    subject: fieldsNamed(message, 'subject')[0]?.value ?? '',
    from: from ? displayName(from.value, author?.local ?? '') : '',
    fromAddress: author ? addressText(author) : '',
    to: to.join(', '),
    date: dateOf(fieldsNamed(message, 'date')[0]?.raw ?? null),
  };
}

/** The words before the address in the decoded field, else the whole field. */
function displayName(value: string, fallback: string): string {
  const words = value
    .replace(/<[^>]*>.*$/s, '')
    .replaceAll('"', '')
    .trim();
  return words || value || fallback;
}

/** RFC 5322 section 3.3; comments are dropped, and years outside of 1970 to 2100 are taken as broken. */
export function dateOf(raw: string | null): number | null {
  if (raw === null) return null;
  const text = raw.replace(/\([^()]*\)/g, ' ').trim();
  // JavaScript would read a year of 0000 as 2000.
  const year = /\b\d{1,2}\s+[A-Za-z]{3,}\s+(\d{4,})\b/.exec(text)?.[1];
  if (year !== undefined && (Number(year) < 1970 || Number(year) > 2100)) return null;
  const time = Date.parse(text);
  return Number.isNaN(time) || time < 0 || time > Date.UTC(2101, 0) ? null : time;
}

/**
 * When a message arrived, in milliseconds since 1970: by the date of its mbox separator (RFC 4155, in UTC), else by its
 * topmost Received field (RFC 5321 section 4.4), else null.
 */
export function receivedOf(message: MailMessage, fromLine: string | null): number | null {
  const separated =
    /^From .*?([A-Z][a-z]{2}) +([A-Z][a-z]{2}) +(\d{1,2}) +([\d:]{5,8})(?: +[A-Z+\d-]+)? +(\d{4})\s*$/.exec(
      fromLine ?? '',
    );
  if (separated) {
    const [, , month, day, clock, year] = separated;
    return dateOf(`${day} ${month} ${year} ${clock} GMT`);
  }
  const received = fieldsNamed(message, 'received')[0]?.raw ?? '';
  return received.includes(';') ? (fieldDate(received)?.time ?? null) : null;
}

/** The identifier of a mailing list, in lower case (RFC 2919); null if the message came by none. */
export function listIdOf(message: MailMessage): string | null {
  const field = fieldsNamed(message, 'list-id')[0];
  if (!field) return null;
  const id = (/<([^<>]*)>[^<>]*$/.exec(field.value)?.[1] ?? field.value).trim().toLowerCase();
  return id === '' ? null : id;
}

/** The address a message was delivered to, in lower case, if it tells. */
export const deliveredTo = (message: MailMessage): string | null => recipientOf(message)?.toLowerCase() ?? null;

/**
 * Flags of the mbox fields Status and X-Status (common practice): R read, A answered, F flagged, D deleted, T draft; and
 * keywords, in lower case, of X-Keywords (common practice: separated by blanks) and Keywords (RFC 5322 section 3.6.5: by
 * commas). Only words that a server can keep as a flag count (RFC 3501 section 9, `flag-keyword`).
 */
export function storedFlags(message: MailMessage): string[] {
  if (FLAG_FIELDS.every((name) => placesNamed(message.fields, name).length === 0)) return [];
  const letters = [...fieldsNamed(message, 'status'), ...fieldsNamed(message, 'x-status')]
    .map((field) => field.value.toUpperCase())
    .join('');
  const known = { R: '\\seen', A: '\\answered', F: '\\flagged', D: '\\deleted', T: '\\draft' };
  const flags = Object.entries(known).flatMap(([letter, flag]) => (letters.includes(letter) ? [flag] : []));
  const valuesOf = (name: string, separator: RegExp) =>
    fieldsNamed(message, name).flatMap(({ value }) => value.split(separator).map((word) => word.trim().toLowerCase()));
  const keywords = [...valuesOf('x-keywords', /\s+/), ...valuesOf('keywords', /,/)].filter((word) =>
    KEYWORD.test(word),
  );
  return [...new Set([...flags, ...keywords])].slice(0, MOST_FLAGS);
}

const FLAG_FIELDS = ['status', 'x-status', 'x-keywords', 'keywords'];
/** An atom of IMAP, of a length that flags have. */
const KEYWORD = /^[!#$&'+,\-./0-9:;<=>?@A-Z[^_`a-z|}~]{1,64}$/;
/** The most flags that are read from one message. */
const MOST_FLAGS = 100;

/** Evidence of the user's own addresses, counted over many messages. */
export interface OwnEvidence {
  /** Messages delivered to each address, by Delivered-To and X-Original-To (common practice). */
  readonly delivered: Map<string, number>;
  /** Messages addressed to each, by To and Cc. */
  readonly addressed: Map<string, number>;
  /** Messages from each in a folder of sent mail. */
  readonly sent: Map<string, number>;
}

export const noEvidence = (): OwnEvidence => ({ delivered: new Map(), addressed: new Map(), sent: new Map() });

/** Counts each address once for a message; `isSent` where its folder is one of sent mail. */
export function countOwnAddresses(message: MailMessage, isSent: boolean, evidence: OwnEvidence): void {
  const count = (names: readonly string[], counts: Map<string, number>) => {
    const counted = new Set<string>();
    for (const name of names) {
      for (const field of fieldsNamed(message, name))
        for (const one of addressesOf(field)) counted.add(addressText(one));
    }
    for (const address of counted) {
      const key = address.toLowerCase();
      counts.set(key, (counts.get(key) ?? 0) + 1);
    }
  };
  count(['delivered-to', 'x-original-to'], evidence.delivered);
  if (isSent) count(['from'], evidence.sent);
  else count(['to', 'cc'], evidence.addressed);
}

/**
 * The probable own addresses, most frequent first: a twentieth of the mail was delivered to them, or half of the sent
 * mail is from them; if no message names its delivery address, a third of the mail is addressed to them.
 */
export function likelyOwn({ delivered, addressed, sent }: OwnEvidence, messages: number): string[] {
  const sentMail = [...sent.values()].reduce((sum, count) => sum + count, 0);
  const found = new Map<string, number>();
  const take = (counts: ReadonlyMap<string, number>, least: number) => {
    for (const [address, count] of counts) {
      if (count >= Math.max(2, least)) found.set(address, Math.max(count, found.get(address) ?? 0));
    }
  };
  take(delivered, messages / 20);
  take(sent, sentMail / 2);
  if (delivered.size === 0) take(addressed, messages / 3);
  return [...found].sort(([, a], [, b]) => b - a).map(([address]) => address);
}
