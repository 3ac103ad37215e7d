import { dateText } from './automata/calendar';
import type { Field } from './solve/fields';
import { USUAL } from './solve/usual';

/** Prefixes and names of what is no header field: they contain a blank, which no field name does. */
export const ENVELOPE = 'envelope ';
export const BODY = 'body ';
export const RAW_BODY = 'body raw';

export const isHeaderField = (name: string): boolean => !name.includes(' ');

export const USUAL_DATE = dateText({ time: USUAL, zone: 0 });

/** What natural messages say if nothing else is asked for. */
export const NATURAL_VALUES: Readonly<Record<string, string>> = {
  date: USUAL_DATE,
  from: 'Ann Lee <ann.lee@people.example>',
  to: 'me@home.example',
  subject: 'Tomorrow',
};

/** Fields of RFC 5322 section 3.6; any other may occur any number of times, with any text. */
const KNOWN: Readonly<Record<string, Pick<Field, 'strict' | 'single'> & Partial<Pick<Field, 'required'>>>> = {
  from: { strict: 'mailbox', single: 'one-from', required: true },
  sender: { strict: 'mailbox', single: 'single-fields' },
  to: { strict: 'mailboxes', single: 'single-fields' },
  cc: { strict: 'mailboxes', single: 'single-fields' },
  bcc: { strict: 'mailboxes', single: 'well-formed' },
  'reply-to': { strict: 'mailboxes', single: 'single-fields' },
  subject: { strict: 'text', single: 'single-fields' },
  date: { strict: 'text', single: 'single-fields' },
  'message-id': { strict: 'text', single: 'single-fields' },
};

export function fieldNamed(name: string): Field {
  const natural = NATURAL_VALUES[name] ?? null;
  const plain = {
    name,
    required: false,
    always: false,
    mayBeEmpty: false,
    natural: natural === null ? [] : [natural, 'Minutes', '', 'bob@hill.example'],
  };
  if (isHeaderField(name)) return { ...plain, loose: 'any text', ...(KNOWN[name] ?? { strict: 'text', single: null }) };
  if (name === `${ENVELOPE}from` || name === `${ENVELOPE}to`) {
    // The null reverse-path (RFC 5321 section 4.5.5) is empty whatever part is asked for (RFC 5228 section 5.4).
    const mayBeEmpty = name === `${ENVELOPE}from`;
    return { ...plain, strict: 'path', loose: 'address', single: true, required: true, mayBeEmpty };
  }
  // Messages may have several texts; of everything else there is one.
  const isSeveral = name === BODY || name.startsWith('parts ');
  const always = name.startsWith('score ') || name === RAW_BODY;
  return { ...plain, strict: 'lines', loose: 'lines', single: isSeveral ? null : true, always };
}
