import fc from 'fast-check';
import { expect, test } from 'vitest';
import { given } from '../../../test/given';
import { mailBody } from '../audit/known-mail';
import { evaluateAtoms } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { amongTraffic } from '../flow/conditions';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import { conditionOf } from '../rules/rule';
import { fateKey } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';
import { messageText, scriptText } from './arbitrary';

const letters = fc.array(fc.tuple(messageText, fc.boolean()), { minLength: 4, maxLength: 60 });

test('messages that take no part change nothing for the others, and are counted nowhere', () => {
  let left = 0;
  fc.assert(
    fc.property(scriptText, letters, (source, mail) => {
      const { chain } = chainFromSieve(source);
      const columns = new MemoryColumns();
      for (const [text] of mail) {
        const message = readMessage(new TextEncoder().encode(text));
        columns.add(message, envelopeOf(message, 'ann@mill.example'));
      }
      const traffic = new Bitmap(columns.count);
      mail.forEach(([, takesPart], number) => {
        if (takesPart) traffic.add(number);
      });
      left += columns.count - traffic.count();
      const all = evaluateAtoms(atomsOf(chain), columns);
      const some = amongTraffic(all, traffic);
      const [whole, part] = [runFlow(chain, all, columns.count), runFlow(chain, some, columns.count)];
      const members = (bitmap: Bitmap) => [...bitmap.members()];
      const within = (bitmap: Bitmap) => members(bitmap.and(traffic));
      expect(part.total).toBe(traffic.count());
      for (const [place, entry] of part.entries.entries()) {
        for (const name of ['reached', 'held', 'exempt', 'fired', 'stopped'] as const) {
          expect(members(entry[name])).toEqual(within(elementAt(whole.entries, place)[name]));
        }
      }
      expect(members(part.fates.dropped())).toEqual(within(whole.fates.dropped()));
      expect(members(part.fates.implicitKeep)).toEqual(within(whole.fates.implicitKeep));
      for (const [folder, { messages }] of part.fates.folders) {
        expect(members(messages)).toEqual(within(given(whole.fates.folders.get(folder)).messages));
      }
      for (const number of traffic.members()) {
        expect(fateKey(part.fates.fateOf(number))).toBe(fateKey(whole.fates.fateOf(number)));
      }
      // What findings read from stored mail.
      const body = mailBody(chain, part, some);
      const everything = Bitmap.full(columns.count);
      for (const { entry } of part.entries) {
        if (entry.kind !== 'rule') continue;
        expect(within(body.holding(conditionOf(entry)))).toEqual(members(body.holding(conditionOf(entry))));
        expect(within(body.exempt(entry))).toEqual(members(body.exempt(entry)));
        const without = { ...chain, entries: chain.entries.filter(({ id }) => id !== entry.id) };
        if (!body.canRun(without)) continue;
        const changed = body.changedBy(without, everything);
        const differ = runFlow(without, all, columns.count).fates.differsFrom(whole.fates);
        expect(members(changed)).toEqual(within(differ));
      }
    }),
    { numRuns: 300 },
  );
  expect(left).toBeGreaterThan(1000);
});
