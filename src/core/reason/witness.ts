import { maybeUtf8 } from '../mail/charset';
import { type Envelope, envelopeOf, type MailMessage, readMessage, sizeWithCrlf } from '../mail/message';
import { dateText } from './automata/calendar';
import type { Value } from './automata/values';
import { BODY, ENVELOPE, isHeaderField, NATURAL_VALUES, RAW_BODY, USUAL_DATE } from './known-fields';
import type { Fact, Model } from './solve/fields';

/** A constructed message, complete by RFC 5322, with its envelope. */
export interface Witness {
  /** As parsed; padding up to the size is only counted. */
  readonly message: MailMessage;
  readonly envelope: Envelope;
  /** As written, without padding. */
  readonly open: string;
  /** The arrival time the message requires, in milliseconds since 1970, as in the fields; null for any time. */
  readonly now: number | null;
  /** The whole message, with padding. */
  readonly text: () => string;
}

/** A message from elsewhere as an example; null if it is not UTF-8, since texts of examples are. */
export function maybeWitness(raw: Uint8Array, recipient: string | null): Witness | null {
  const open = maybeUtf8(raw);
  if (open === null) return null;
  const message = readMessage(raw);
  return { message, envelope: envelopeOf(message, recipient), open, now: null, text: () => open };
}

/** The most octets of a written example message. */
const MOST_OCTETS = 64 * 1024 * 1024;
/** Characters per line of padding (RFC 5322 section 2.1.1 allows 998). */
const LINE = 900;

/** With the envelope, if tests read the envelope. */
const PATHS = { from: 'ann.lee@people.example', to: 'me@home.example' } as const;

/** Field names in their usual spelling; others as spelled in the test. */
const NAMES: Readonly<Record<string, string>> = {
  from: 'From',
  sender: 'Sender',
  'reply-to': 'Reply-To',
  to: 'To',
  cc: 'Cc',
  bcc: 'Bcc',
  subject: 'Subject',
  date: 'Date',
  'message-id': 'Message-ID',
  'list-id': 'List-Id',
};

/** Fields in the customary order. */
const ORDER = ['return-path', 'delivered-to', 'date', 'from', 'sender', 'reply-to', 'to', 'cc', 'bcc', 'subject'];

/**
 * Writes a message with the values of a model. Some values cannot be written, and texts may match across joins, so
 * callers execute the chain on the message to check. Null if the message would have to be smaller than possible, or far
 * too large.
 */
export function buildWitness({ values, size: sizes, now }: Model, facts: readonly Fact[]): Witness | null {
  const asked = fieldsOf(facts);
  const date = now === null ? USUAL_DATE : dateText({ time: now, zone: 0 });
  const fields: [name: string, value: string][] = [];
  for (const [name, found] of values) {
    if (!isHeaderField(name)) continue;
    for (const value of found) fields.push([name, written(value)]);
  }
  for (const [name, value] of Object.entries({ ...NATURAL_VALUES, date })) {
    if (!values.has(name)) fields.push([name, value]);
  }
  // A message arrives at the time of its newest Received field.
  if (now !== null && values.has('date')) {
    if (values.has('received')) return null;
    fields.push(['received', `by mail.home.example; ${date}`]);
  }
  const path = (part: 'from' | 'to'): string | null =>
    values.get(ENVELOPE + part)?.[0]?.text ?? (asked.has(ENVELOPE + part) ? PATHS[part] : null);
  const envelope = { from: path('from'), to: path('to') };
  if (envelope.from !== null && !asked.has('return-path')) fields.push(['return-path', `<${envelope.from}>`]);
  if (envelope.to !== null && !asked.has('delivered-to')) fields.push(['delivered-to', envelope.to]);
  fields.sort(([a], [b]) => placeOf(a) - placeOf(b));
  const header = fields.map(([name, value]) => `${NAMES[name] ?? capitalised(name)}: ${value}`);
  const texts = [...(values.get(BODY) ?? []), ...(values.get(RAW_BODY) ?? [])].map(({ text }) => text);
  const open = `${[...header, ...typeOf(header, texts)].join('\n')}\n\n${texts.join('\n')}\n`;
  const raw = encoder.encode(open);
  const octets = sizeWithCrlf(raw);
  if (sizes.most !== null && octets > sizes.most) return null;
  if (sizes.least > MOST_OCTETS) return null;
  const missing = Math.max(0, sizes.least - octets);
  const message = readMessage(raw);
  const size = octets + missing;
  return { message: { ...message, size }, envelope, open, now, text: () => filledTo(open, size) };
}

/** A message padded with spaces to a number of octets. */
export function filledTo(open: string, size: number): string {
  const missing = Math.max(0, size - sizeWithCrlf(encoder.encode(open)));
  const lines = Math.floor(missing / (LINE + 2));
  return `${open}${`${' '.repeat(LINE)}\n`.repeat(lines)}${' '.repeat(missing - lines * (LINE + 2))}`;
}

const fields = new WeakMap<readonly Fact[], { readonly facts: number; readonly names: Set<string> }>();

/** The fields that facts are about; of a list that grows, only the new ones are looked at. */
function fieldsOf(facts: readonly Fact[]): ReadonlySet<string> {
  const { facts: count, names } = fields.get(facts) ?? { facts: 0, names: new Set<string>() };
  if (count === facts.length) return names;
  for (const fact of facts.slice(count)) if ('field' in fact) names.add(fact.field.name);
  fields.set(facts, { facts: facts.length, names });
  return names;
}

const encoder = new TextEncoder();
const isAscii = (text: string): boolean => /^[ -~]*$/.test(text);

/** MIME headers (RFC 2045 section 4), if the texts need them. */
function typeOf(header: readonly string[], texts: readonly string[]): string[] {
  if (texts.every((text) => /^[\n -~]*$/.test(text)) || header.some((line) => /^content-/i.test(line))) return [];
  return ['MIME-Version: 1.0', 'Content-Type: text/plain; charset=utf-8', 'Content-Transfer-Encoding: 8bit'];
}

function placeOf(name: string): number {
  const place = ORDER.indexOf(name);
  return place < 0 ? ORDER.length : place;
}

const capitalised = (name: string): string => name.replace(/(^|-)[a-z]/g, (letter) => letter.toUpperCase());

/** A value as written in a message: display names are encoded if needed, plain text as a whole. */
function written({ text, names, addresses }: Value): string {
  if (addresses === 'hidden') return hidden(text);
  if (names.length === 0 && addresses !== 'seen')
    return isAscii(text) && !text.includes('=?') ? text : encodedWords(text);
  let raw = '';
  let at = 0;
  for (const [from, to] of names) {
    const name = text.slice(from, to).trimEnd();
    raw += text.slice(at, from) + (isPhrase(name) ? name : encodedWords(name)) + text.slice(from + name.length, to);
    at = to;
  }
  return raw + text.slice(at);
}

/** Words, or one quoted string (RFC 5322 section 3.2.5). */
const isPhrase = (name: string): boolean =>
  /^([\w !#$%&'*+\-/=?^`{|}~]+|"[ !#-[\]-~]*")$/.test(name) && !name.includes('=?');

/** Two encoded words, the second perhaps empty: there is no address in two words without angle brackets. */
function hidden(text: string): string {
  const [first = '', ...rest] = text;
  return first === '' ? '' : `${encodedWords(first)} ${encodedWords(rest.join(''))}`;
}

/** Encoded words (RFC 2047 section 4.2) of at most 75 characters; blanks between two encoded words are ignored. */
function encodedWords(text: string): string {
  const words: string[] = [];
  let word = '';
  for (const character of text) {
    const octets = [...encoder.encode(character)];
    const code = /^[A-Za-z0-9]$/.test(character)
      ? character
      : octets.map((octet) => `=${octet.toString(16).toUpperCase().padStart(2, '0')}`).join('');
    if (word.length + code.length > 60) {
      words.push(word);
      word = '';
    }
    word += code;
  }
  words.push(word);
  return words.map((code) => `=?utf-8?Q?${code}?=`).join(' ');
}
