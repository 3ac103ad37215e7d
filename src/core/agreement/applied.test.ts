import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { applied, appliedChain, balanceOf } from '../flow/applied';
import { evaluateAtoms } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { messageText, scriptText } from './arbitrary';

const ME = 'ann@mill.example';
const read = (text: string) => readMessage(new TextEncoder().encode(text));

function flowOf(chain: Chain, texts: readonly string[]) {
  const columns = new MemoryColumns();
  for (const text of texts) columns.add(read(text), envelopeOf(read(text), ME));
  return runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
}

/** The messages of each place, from the places of each message. */
function held(placesOf: readonly (readonly string[])[]): Map<string, Bitmap> {
  const places = new Map<string, Bitmap>();
  placesOf.forEach((own, number) => {
    for (const place of own) {
      const there = places.get(place) ?? new Bitmap(placesOf.length);
      there.add(number);
      places.set(place, there);
    }
  });
  return places;
}

const all = (count: number) => Bitmap.full(count);
const written = (places: ReadonlyMap<string, Bitmap>) =>
  Object.fromEntries(
    [...places].flatMap(([place, set]) => (set.isEmpty() ? [] : [[place, [...set.members()]]])).sort(),
  );

describe('a chain applied to stored mail', () => {
  const placed = fc.record({
    text: messageText,
    places: fc.uniqueArray(fc.constantFrom(INBOX, 'Archive', 'a', 'b'), { minLength: 1, maxLength: 2 }),
  });

  test('leaves each message where the interpreter says, in the sums of every place', () => {
    let moved = 0;
    const sample = fc.tuple(scriptText, fc.array(placed, { minLength: 5, maxLength: 30 }), fc.boolean());
    fc.assert(
      fc.property(sample, ([source, messages, isAll]) => {
        fc.pre(!/fileinto[^;]*"inbox"/i.test(source));
        const { chain } = chainFromSieve(source);
        const texts = messages.map(({ text }) => text);
        const before = held(messages.map(({ places }) => places));
        const mail = isAll ? 'all' : 'inbox';
        const result = applied(flowOf(appliedChain(chain, null), texts), before, mail, all(texts.length));
        const run = interpreter(parse(source).script);
        const expected = messages.map(({ text, places }) => {
          const from = isAll ? places : places.filter((place) => place === INBOX);
          if (from.length === 0) return places;
          const { deliveries } = run(read(text), envelopeOf(read(text), ME)).fate;
          const targets = deliveries.map(({ folder }) => folder);
          const kept = targets.includes(INBOX) ? from : [];
          const rest = places.filter((place) => !from.includes(place));
          return [...new Set([...rest, ...kept, ...targets.filter((folder) => folder !== INBOX)])];
        });
        expect(written(result.after)).toEqual(written(held(expected)));
        expect([...result.gone.members()]).toEqual(
          expected.flatMap((places, number) => (places.length === 0 ? [number] : [])),
        );
        for (const [place, there] of result.after) {
          const sums = balanceOf(before.get(place) ?? new Bitmap(texts.length), there);
          expect(sums.before - sums.left + sums.came).toBe(sums.after);
          moved += sums.left;
        }
      }),
      { numRuns: 500 },
    );
    expect(moved).toBeGreaterThan(300);
  });

  const SUBJECTS = ['oak', 'weir', 'oak and weir', 'none'];
  const texts = SUBJECTS.map((subject) => `From: a@x.example\nSubject: ${subject}\n\nwords\n`);
  const chain = chainFromSieve(`require ["fileinto", "imap4flags", "copy"];
# Oak
if header :contains "subject" "oak" { addflag "\\\\Seen"; fileinto "Oak"; stop; }
# Weir
if header :contains "subject" "weir" { fileinto "inbox"; }
`).chain;
  const placesOf = [[INBOX], ['Archive'], ['Archive'], ['Archive']];

  test('filing into the inbox moves a message there, keeping it does not', () => {
    const { after, flags } = applied(flowOf(appliedChain(chain, null), texts), held(placesOf), 'all', all(4));
    expect(written(after)).toEqual({ Archive: [3], INBOX: [1], Oak: [0, 2] });
    expect([...given(flags.get('Oak')?.get('\\seen')).members()]).toEqual([0, 2]);
    expect(flags.get('Archive')?.size).toBe(0);
  });

  test('one rule alone acts as if there were no other, even if it is off', () => {
    const weir = given(chain.entries[1]);
    const off: Chain = { ...chain, entries: [given(chain.entries[0]), { ...weir, on: false }] };
    const { after } = applied(flowOf(appliedChain(off, weir.id), texts), held(placesOf), 'all', all(4));
    expect(written(after)).toEqual({ Archive: [3], INBOX: [0, 1, 2] });
  });

  test('applied to the inbox alone, it leaves the rest, and what messages of the inbox have in other places', () => {
    const before = held([[INBOX, 'Starred'], ['Archive'], ['Archive'], [INBOX]]);
    const { after, taken } = applied(flowOf(appliedChain(chain, null), texts), before, 'inbox', all(4));
    expect(written(after)).toEqual({ Archive: [1, 2], INBOX: [3], Oak: [0], Starred: [0] });
    expect([...taken.members()]).toEqual([0, 3]);
  });
});
