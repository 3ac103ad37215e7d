import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { foldAscii } from '../text/fold';
import { Bitmap } from './bitmap';
import { BatchBuilder, foldedOctets, textSearch } from './texts';

const piece = fc.constantFrom('a', 'b', 'ab', 'A', 'é', 'É', '漢', ' ', '*', '', 'aab');
const words = fc.array(piece, { maxLength: 6 }).map((parts) => parts.join(''));

describe('a search over texts that stand one behind the other', () => {
  test('finds what a search in each text finds, with few keys and with many', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(words, { maxLength: 3 }), { minLength: 1, maxLength: 12 }),
        fc.array(words, { minLength: 1, maxLength: 40 }),
        fc.nat(3),
        (messages, keys, cut) => {
          const builder = new BatchBuilder();
          const tests = [
            ...keys.map((key) => ({ match: 'contains' as const, keys: [key], found: new Bitmap(messages.length) })),
            { match: 'is' as const, keys, found: new Bitmap(messages.length) },
          ];
          const search = textSearch(tests);
          messages.forEach((texts, message) => {
            for (const text of texts) builder.add(message, foldedOctets(text));
            if (message % 4 === cut) search(builder.take());
          });
          search(builder.take());
          keys.forEach((key, index) => {
            const having = messages.flatMap((texts, message) =>
              texts.some((text) => foldAscii(text).includes(foldAscii(key))) ? [message] : [],
            );
            expect([...(tests[index]?.found.members() ?? [])]).toEqual(having);
          });
          const equal = messages.flatMap((texts, message) =>
            texts.some((text) => keys.some((key) => foldAscii(key) === foldAscii(text))) ? [message] : [],
          );
          expect([...(tests[keys.length]?.found.members() ?? [])]).toEqual(equal);
        },
      ),
      { numRuns: 2000 },
    );
  });
});
