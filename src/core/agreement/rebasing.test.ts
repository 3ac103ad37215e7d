import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { applyEdit, applyEdits, type Edit, invertEdit, moveBefore, removal, rewriting } from '../rules/edit';
import { accountOf } from '../rules/lists';
import { rebase } from '../rules/rebase';
import type { Chain, ChainEntry } from '../rules/rule';
import { chainOf, smallRule } from './small-chains';

/** Random changes from two sides to the same chain, including linked runs. */

const chain = fc.array(smallRule, { minLength: 2, maxLength: 6 }).map(chainOf);
const choice = fc.record({ what: fc.nat({ max: 9 }), at: fc.nat(), to: fc.nat(), rule: smallRule });
type Choice = typeof choice extends fc.Arbitrary<infer T> ? T : never;

/** An edit that applies to a chain; null if the choice yields none. */
function editOf(of: Chain, { what, at, to, rule }: Choice): Edit | null {
  const { entries } = of;
  const place = at % Math.max(1, entries.length);
  const found = entries[place];
  const entry = found?.kind === 'rule' ? found : undefined;
  if (!entry) return null;
  const other = { ...entry, name: `${entry.name}.` };
  switch (what) {
    case 0:
      return { kind: 'switch', id: entry.id, on: !entry.on };
    case 1:
      return { kind: 'ending', id: entry.id, from: entry.ending, to: entry.ending === 'stop' ? 'continue' : 'stop' };
    case 2:
      return moveBefore(of, entry.id, entries[to % (entries.length + 1)]?.id ?? null);
    case 3:
      return removal(of, entry);
    case 4:
      // Within a run it would become another run.
      if (entry.link === 'otherwise') return null;
      return rewriting(place, [], [{ ...rule, id: `n${to % 50}`, name: 'New', link: 'always' }]);
    case 5:
      return accountOf(entry) === null ? { kind: 'account', id: entry.id, from: null, to: 'me@mill.example' } : null;
    case 6:
      return rewriting(place, [entry], [{ ...entry, unless: [...entry.unless, rule.tests] }]);
    case 7:
      return rewriting(place, [entry], [{ ...entry, actions: rule.actions }]);
    case 8:
      return rewriting(place, [entry], [{ ...entry, tests: rule.tests }]);
    default:
      return rewriting(place, [entry], [other]);
  }
}

/** Edits one after another, as far as they apply. */
function made(of: Chain, choices: readonly Choice[]): { edits: Edit[]; chain: Chain } {
  const edits: Edit[] = [];
  let now = of;
  for (const one of choices) {
    const edit = editOf(now, one);
    const applied = edit && applyEdit(now, edit);
    if (!applied?.ok) continue;
    edits.push(given(edit));
    now = applied.chain;
  }
  return { edits, chain: now };
}

const ids = (of: Chain): string[] => of.entries.map(({ id }) => id);
const entryOf = (of: Chain, id: string): ChainEntry | undefined => of.entries.find((entry) => entry.id === id);
const choices = fc.array(choice, { minLength: 1, maxLength: 4 });

describe('edits of any kind', () => {
  test('are taken back one by one, to the very chain', () => {
    fc.assert(
      fc.property(chain, choices, (base, wanted) => {
        const { edits, chain: after } = made(base, wanted);
        const back = applyEdits(after, edits.toReversed().map(invertEdit));
        expect(back.ok && back.chain).toEqual(base);
      }),
      { numRuns: 500 },
    );
  });

  test('on the chain that they were made for, come to what they come to', () => {
    fc.assert(
      fc.property(chain, choices, (base, wanted) => {
        const { edits, chain: after } = made(base, wanted);
        const found = rebase(base, edits, base);
        expect(found.ok && found.chain).toEqual(after);
      }),
      { numRuns: 500 },
    );
  });

  test('that were made by the other hand too, are done already', () => {
    fc.assert(
      fc.property(chain, choice, (base, wanted) => {
        const { edits, chain: after } = made(base, [wanted]);
        const found = rebase(base, edits, after);
        expect(found.ok ? found.chain : found.words).toEqual(after);
      }),
      { numRuns: 1000 },
    );
  });

  test('of two hands: what is carried over can be made, and no rule comes twice or goes by itself', () => {
    let refused = 0;
    let carried = 0;
    fc.assert(
      fc.property(chain, choices, choices, (base, wanted, meanwhile) => {
        const mine = made(base, wanted);
        const theirs = made(base, meanwhile);
        const found = rebase(base, mine.edits, theirs.chain);
        if (!found.ok) {
          refused++;
          expect(found.words + found.ids.join('')).not.toBe('');
          return;
        }
        carried++;
        const applied = applyEdits(theirs.chain, found.edits);
        expect(applied.ok && applied.chain).toEqual(found.chain);
        expect(new Set(ids(found.chain)).size).toBe(found.chain.entries.length);
        for (const entry of base.entries) {
          const [here, there, both] = [mine.chain, theirs.chain, found.chain].map((of) => entryOf(of, entry.id));
          expect([entry.id, both !== undefined]).toEqual([entry.id, here !== undefined && there !== undefined]);
        }
        for (const id of [...ids(mine.chain), ...ids(theirs.chain)]) {
          if (!entryOf(base, id)) expect(ids(found.chain)).toContain(id);
        }
      }),
      { numRuns: 1500 },
    );
    expect(carried).toBeGreaterThan(500);
    expect(refused).toBeGreaterThan(50);
  });
});
