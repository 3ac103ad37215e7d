import fc from 'fast-check';
import { expect, test } from 'vitest';
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
