import fc from 'fast-check';
import { expect, test } from 'vitest';
import { given } from '../../../test/given';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { SingleRuns } from '../flow/single';
import { fateKey } from '../sieve/interpret/fate';
import { chainOf, SMALL_ENVELOPE, SMALL_MESSAGES, smallRule } from './small-chains';

const mail = SMALL_MESSAGES.filter((_, index) => index % 4 === 0);

test('messages run one by one end as they do when all are run at once', () => {
  let plain = 0;
  fc.assert(
    fc.property(
      fc.array(smallRule, { minLength: 1, maxLength: 6 }),
      fc.array(fc.boolean(), { maxLength: 6 }),
      (rules, off) => {
        const whole = chainOf(rules);
        const chain = { ...whole, entries: whole.entries.map((entry, at) => ({ ...entry, on: off[at] !== true })) };
        const columns = new MemoryColumns();
        for (const message of mail) columns.add(message, SMALL_ENVELOPE);
        const atoms = evaluateAtoms(atomsOf(chain), columns);
        const run = new SingleRuns(atoms, columns.count).maybeRun(chain);
        if (!run) return;
        plain++;
        const { fates } = runFlow(chain, atoms, columns.count);
        expect(mail.map((_, index) => run(index))).toEqual(mail.map((_, index) => fateKey(fates.fateOf(index))));
      },
    ),
    { numRuns: 600 },
  );
  expect(plain).toBeGreaterThan(100);
});

test('so they do under other chains, after the first', () => {
  let plain = 0;
  const both = fc.tuple(
    fc.array(smallRule, { minLength: 2, maxLength: 6 }),
    fc.array(smallRule, { maxLength: 3 }),
    fc.infiniteStream(fc.nat()),
  );
  fc.assert(
    fc.property(both, ([rules, more, picks]) => {
      const { entries, closing } = chainOf([...rules, ...more]);
      const own = entries.slice(0, rules.length);
      const pick = (most: number) => given(picks.next().value) % most;
      // Some rules are moved, some left out, some put in.
      const varied = Array.from({ length: 6 }, () => {
        const some = [...own].filter(() => pick(6) > 0);
        for (const entry of entries.slice(rules.length))
          if (pick(2) === 0) some.splice(pick(some.length + 1), 0, entry);
        const [moved] = some.splice(pick(some.length || 1), 1);
        if (moved) some.splice(pick(some.length + 1), 0, moved);
        return { entries: some, closing };
      });
      const columns = new MemoryColumns();
      for (const message of mail) columns.add(message, SMALL_ENVELOPE);
      const atoms = evaluateAtoms(atomsOf({ entries, closing }), columns);
      const runs = new SingleRuns(atoms, columns.count);
      for (const chain of [{ entries: own, closing }, ...varied]) {
        const run = runs.maybeRun(chain);
        if (!run) continue;
        plain++;
        const { fates } = runFlow(chain, atoms, columns.count);
        expect(mail.map((_, index) => run(index))).toEqual(mail.map((_, index) => fateKey(fates.fateOf(index))));
      }
    }),
    { numRuns: 200 },
  );
  expect(plain).toBeGreaterThan(300);
});
