import { addressPart, parseAddressList } from '../mail/address';
import { addressesOf, type Envelope, fieldsNamed, type MailMessage, readableTexts } from '../mail/message';
import type { Part } from './automata/values';
import { BODY, ENVELOPE } from './lower';
import type { Fact } from './solve/fields';

/** Whether a fact is true of a message; null if it is not understood. */
export function factHolds(fact: Fact, message: MailMessage, envelope: Envelope): boolean | null {
  switch (fact.fact) {
    case 'some': {
      const { language, part } = fact.test;
      return textsOf(fact.field.name, part, message, envelope).some((text) => language.has(text));
    }
    case 'present':
      return fieldsNamed(message, fact.field.name).length > 0;
    case 'over':
      return message.size > fact.octets;
    case 'beyond':
    case 'free':
      return null;
    default:
      fact satisfies never;
      throw new Error('unknown fact');
  }
}

function textsOf(name: string, part: Part, message: MailMessage, envelope: Envelope): string[] {
  if (name === BODY) return readableTexts(message);
  if (name.startsWith(ENVELOPE)) {
    const path = name === `${ENVELOPE}from` ? envelope.from : envelope.to;
    if (path === null || path === '' || part === 'text') return path === null ? [] : [path];
    return parseAddressList(path)
      .slice(0, 1)
      .flatMap((address) => addressPart(address, part) ?? []);
  }
  const fields = fieldsNamed(message, name);
  if (part === 'text') return fields.map(({ value }) => value);
  return fields.flatMap((field) => addressesOf(field).flatMap((address) => addressPart(address, part) ?? []));
}
