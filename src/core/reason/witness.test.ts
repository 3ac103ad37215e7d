import { describe, expect, test } from 'vitest';
import { addressesOf, envelopeOf, fieldsNamed, readMessage } from '../mail/message';
import type { Value } from './automata/values';
import type { Model } from './solve/fields';
import { buildWitness } from './witness';

const plain = (text: string): Value => ({ text, names: [] });
const model = (values: Record<string, Value[]>, least = 0, most: number | null = null): Model => {
  return { values: new Map(Object.entries(values)), size: { least, most }, now: null };
};
const built = (one: Model) => {
  const witness = buildWitness(one, []);
  if (!witness) throw new Error('it cannot be written');
  return { ...witness, written: readMessage(new TextEncoder().encode(witness.text())) };
};

describe('a model written as a message', () => {
  test('has what RFC 5322 section 3.6 asks for, in the usual order', () => {
    const { text } = built(model({ subject: [plain('planks')], 'x-tag': [plain('a'), plain('b')] }));
    expect(text().split('\n').slice(0, 5)).toEqual([
      'Date: Thu, 1 Jan 2026 10:00:00 +0000',
      'From: Ann Lee <ann.lee@people.example>',
      'To: me@home.example',
      'Subject: planks',
      'X-Tag: a',
    ]);
  });

  test.each(['石灰', 'Müll und mehr', '=?utf-8?Q?no?=', 'x'.repeat(200), '漢'.repeat(60), 'a < b, c@d'])(
    'the subject “%s” is read back as it was',
    (subject) => {
      const { written } = built(model({ subject: [plain(subject)] }));
      expect(fieldsNamed(written, 'subject').map(({ value }) => value)).toEqual([subject]);
    },
  );

  test.each(['Ann Lee', '"Lee, Ann"', '石', 'a <b', 'x, y@z', 'Lee:'])('the display name “%s” too', (name) => {
    const text = `${name} <ann@mill.example>`;
    const { written } = built(model({ from: [{ text, names: [[0, name.length]] }] }));
    const [field] = fieldsNamed(written, 'from');
    expect(field?.value).toBe(text);
    expect(field && addressesOf(field).map(({ local, domain }) => [local, domain])).toEqual([['ann', 'mill.example']]);
  });

  test('the envelope is told by the message itself', () => {
    const { written, envelope } = built(
      model({ 'envelope from': [plain('')], 'envelope to': [plain('a@mill.example')] }),
    );
    expect(envelope).toEqual({ from: '', to: 'a@mill.example' });
    expect(envelopeOf(written, null)).toEqual(envelope);
  });

  test.each([0, 1, 500, 999, 1000, 1001, 5_000_000])('at least %i octets, as size tests count them', (least) => {
    const { message, written } = built(model({}, least));
    expect(written.size).toBe(message.size);
    expect(message.size).toBeGreaterThanOrEqual(least);
  });

  test('what would have to be smaller than it is cannot be written', () => {
    expect(buildWitness(model({ subject: [plain('x'.repeat(100))] }, 0, 90), [])).toBeNull();
    expect(buildWitness(model({}, 2 ** 40), [])).toBeNull();
  });
});
