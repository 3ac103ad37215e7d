import { expect, test } from 'vitest';
import { Dice } from '../../../demo/random';
import { DictionaryBuilder } from '../flow/columns';
import { PackedMessages, Recipients } from './packed-messages';
import type { StoredMessage } from './stored';

test('packed messages say what the messages said', () => {
  const dice = new Dice(9);
  const pick = (...texts: string[]) => dice.pick(texts);
  const made = Array.from({ length: 500 }, (_, number): StoredMessage => {
    const to = Array.from({ length: dice.between(0, 3) }, () => pick('a@x.example', 'b@y.example', 'c@z.example'));
    return {
      folder: dice.chance(0.1) ? null : pick('INBOX', 'Oak', '石灰'),
      seen: dice.chance(0.5),
      answered: dice.chance(0.2),
      flagged: dice.chance(0.1),
      outgoing: dice.chance(0.1),
      sender: pick('', 'a@x.example', 'ann@mill.example'),
      senderName: pick('', 'Ann', 'INBOX'),
      recipients: [...new Set(to)],
      subject: pick('', 'oak', `note ${number}`),
      date: dice.chance(0.1) ? null : number * 1000,
      listId: dice.chance(0.7) ? null : pick('beams.oak.example', ''),
      conversation: dice.between(0, number),
    };
  });
  const builder = new DictionaryBuilder();
  const packed = new PackedMessages(made.length + 1);
  for (const [number, { recipients, conversation: _, ...row }] of made.entries()) {
    packed.set(number, row);
    for (const address of recipients) builder.add(number, address);
  }
  const { terms, messages, places } = builder.take();
  const fields = [new Recipients(terms, messages, places, packed.length)];
  packed.finish(
    fields,
    made.map(({ conversation }) => conversation),
  );
  const names = Object.keys(made[0] ?? {}) as (keyof StoredMessage)[];
  const plain = (message: StoredMessage | undefined) => names.map((name) => message?.[name]);
  expect(made.map((_, number) => plain(packed.at(number)))).toEqual(made.map(plain));
  expect([...packed].slice(0, made.length).map(plain)).toEqual(made.map(plain));
  // One of a removed source.
  expect(packed.at(made.length)).toMatchObject({
    folder: 'INBOX',
    sender: '',
    recipients: [],
    date: null,
    conversation: -1,
  });
  expect(packed.at(made.length + 1)).toBeUndefined();
});
