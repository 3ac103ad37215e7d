import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chainOf, SMALL_ENVELOPE, SMALL_MESSAGES, smallRule } from '../agreement/small-chains';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { applyEdits, type Edit, moveBefore, removal, rewriting } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import { elementAt } from '../text/lookup';
import { Trials } from './trials';
import { concerned } from './weigh';

const mail = SMALL_MESSAGES.filter((_, index) => index % 4 === 0);

test('only messages that edits concern have another fate', () => {
  const edited = fc.tuple(
    fc.array(smallRule, { minLength: 2, maxLength: 6 }),
    smallRule,
    fc.nat(),
    fc.nat(),
    fc.nat(4),
  );
  let told = 0;
  fc.assert(
    fc.property(edited, ([rules, other, from, to, kind]) => {
      const chain = chainOf(rules);
      const [at, place] = [from % rules.length, to % rules.length];
      const entry = elementAt(chain.entries, at);
      if (entry.kind !== 'rule') return;
      const made = { ...entry, tests: other.tests, unless: other.unless };
      const edits: readonly (Edit | null)[] =
        [
          [rewriting(at, [entry], [made])],
          [rewriting(at, [entry], [{ ...made, actions: other.actions }])],
          [removal(chain, entry)],
          [moveBefore(chain, entry.id, elementAt(chain.entries, place).id)],
          [rewriting(at, [entry], [made]), moveBefore(chain, entry.id, elementAt(chain.entries, place).id)],
        ][kind] ?? [];
      const some = edits.flatMap((edit) => edit ?? []);
      const applied = applyEdits(chain, some);
      if (!applied.ok) return;
      const columns = new MemoryColumns();
      for (const message of mail) columns.add(message, SMALL_ENVELOPE);
      const trials = new Trials(new Map(), (atoms) => evaluateAtoms(atoms, columns), columns.count);
      const among = concerned(trials, [chain, applied.chain], some);
      if (!among) return;
      told++;
      const all = trials.changed(chain, applied.chain);
      expect(trials.changed(chain, applied.chain, among)).toEqual(all);
    }),
    { numRuns: 500 },
  );
  expect(told).toBeGreaterThan(100);
});

test('what was not evaluated because a plan was cancelled is evaluated for the next', () => {
  const { entries, closing } = chainFromSieve('if header :is "subject" "a" { discard; }').chain;
  const columns = new MemoryColumns();
  for (const message of mail) columns.add(message, SMALL_ENVELOPE);
  let isCancelled = true;
  const trials = new Trials(
    new Map(),
    (atoms) => {
      if (isCancelled) throw new Error('cancelled');
      return evaluateAtoms(atoms, columns);
    },
    columns.count,
  );
  const chain = { entries, closing };
  expect(() => trials.flow(chain)).toThrow('cancelled');
  isCancelled = false;
  const fired = trials.flow(chain).entries[0]?.fired.count();
  expect(fired).toBe(
    mail.filter(({ fields }) => fields.some(({ name, value }) => name === 'Subject' && value === 'a')).length,
  );
  expect(fired).toBeGreaterThan(0);
});
