import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Writers } from './effects';

const token = fc.constantFrom('var a', 'var b', 'var *', 'header x', 'header *', 'flags', 'match');
const tokens = fc.array(token, { maxLength: 3 });

/** Whether a write may affect a read: the same token, or all tokens of its kind. */
const matches = (read: string, write: string): boolean => {
  const [kind, other] = [read.split(' ')[0], write.split(' ')[0]];
  return read === write || (kind === other && (read.endsWith(' *') || write.endsWith(' *')));
};

test('writers are visited from the last one to the first, those of what is wanted on the way too', () => {
  fc.assert(
    fc.property(
      fc.array(tokens, { maxLength: 12 }),
      tokens,
      fc.array(tokens, { maxLength: 12 }),
      (writes, reads, more) => {
        const writers = new Writers();
        writes.forEach((written, place) => void writers.add(place, new Set(written)));
        const walk = writers.walk();
        walk.want(reads, writes.length);
        const visited: number[] = [];
        for (let at = walk.next(); at >= 0; at = walk.next()) {
          visited.push(at);
          walk.want(more[at] ?? [], at);
        }
        const wanted = new Set(reads);
        const expected: number[] = [];
        for (let place = writes.length - 1; place >= 0; place--) {
          if (!writes[place]?.some((write) => [...wanted].some((read) => matches(read, write)))) continue;
          expected.push(place);
          for (const read of more[place] ?? []) wanted.add(read);
        }
        expect(visited).toEqual(expected);
      },
    ),
    { numRuns: 2000 },
  );
});
