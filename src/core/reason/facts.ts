import { addressPart, parseAddressList } from '../mail/address';
import { fieldDate } from '../mail/date';
import type { HeaderField } from '../mail/headers';
import { addressesOf, type Envelope, fieldsNamed, type MailMessage, readableTexts } from '../mail/message';
import { textOfOctets } from '../text/fold';
import { meetsAll } from './automata/calendar';
import type { Part } from './automata/values';
import { BODY, ENVELOPE, isHeaderField, RAW_BODY } from './known-fields';
import type { Fact } from './solve/fields';

/** Whether a fact is true of a message; null if it is not understood. */
export function factHolds(
  fact: Fact,
  message: MailMessage,
  envelope: Envelope,
  now: number | null = null,
): boolean | null {
  switch (fact.fact) {
    case 'some': {
      const { language, part } = fact.test;
      const name = fact.field.name;
      if (!fact.at) return textsOf(name, part, message, envelope)?.some((text) => language.has(text)) ?? null;
      const fields = fieldsNamed(message, name);
      const field = fields[fact.at.fromEnd ? fields.length - fact.at.number : fact.at.number - 1];
      return field !== undefined && textsOfField(field, part).some((text) => language.has(text));
    }
    case 'present':
      return fieldsNamed(message, fact.field.name).length > 0;
    case 'times':
      return fieldsNamed(message, fact.field.name).length >= fact.least;
    case 'addresses': {
      const fields = fieldsNamed(message, fact.field.name);
      return fields.reduce((sum, field) => sum + addressesOf(field).length, 0) >= fact.least;
    }
    case 'over':
      return message.size > fact.octets;
    case 'dated':
      return fieldsNamed(message, fact.field.name).some(({ raw }) => {
        const read = fieldDate(raw);
        return read !== null && meetsAll({ some: [fact.test], none: [] }, read);
      });
    case 'now':
      return now === null ? null : meetsAll({ some: [fact.test], none: [] }, { time: now, zone: 0 });
    case 'free':
      return null;
    default:
      fact satisfies never;
      throw new Error('unknown fact');
  }
}

/** Null for what is no property of the message. */
function textsOf(name: string, part: Part, message: MailMessage, envelope: Envelope): readonly string[] | null {
  if (name.startsWith(ENVELOPE)) {
    const path = name === `${ENVELOPE}from` ? envelope.from : name === `${ENVELOPE}to` ? envelope.to : null;
    if (path === null || path === '' || part === 'text') return path === null ? [] : [path];
    return parseAddressList(path)
      .slice(0, 1)
      .flatMap((address) => addressPart(address, part) ?? []);
  }
  const known = textsCache.get(message) ?? new Map<string, readonly string[] | null>();
  textsCache.set(message, known);
  const key = `${part} ${name}`;
  const found = known.get(key);
  if (found !== undefined) return found;
  const texts = textsIn(name, part, message);
  known.set(key, texts);
  return texts;
}

/** Read once for the many facts about one field. */
const textsCache = new WeakMap<MailMessage, Map<string, readonly string[] | null>>();

function textsIn(name: string, part: Part, message: MailMessage): string[] | null {
  if (name === BODY) return readableTexts(message);
  if (name === RAW_BODY) return [textOfOctets(message.body)];
  if (!isHeaderField(name)) return null;
  return fieldsNamed(message, name).flatMap((field) => textsOfField(field, part));
}

const textsOfField = (field: HeaderField, part: Part): string[] =>
  part === 'text' ? [field.value] : addressesOf(field).flatMap((address) => addressPart(address, part) ?? []);
