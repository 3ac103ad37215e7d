import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { applyEdit, applyEdits, type Edit, invertEdit, moveBefore, runsOf } from './edit';
import { editWords } from './edit-words';
import { chainFromSieve } from './from-sieve';
import type { Chain } from './rule';

const { chain } = chainFromSieve(
  [
    '# A\nif exists "a" { keep; }',
    '# B\nif exists "b" { keep; }\n# C\nelsif exists "c" { stop; }\n# D\nelse { discard; }',
    '# E\nkeep;',
  ].join('\n\n'),
);
const names = (of: Chain) => of.entries.map(({ name }) => name).join('');
const links = (of: Chain) => of.entries.map((entry) => (entry.kind === 'rule' ? entry.link[0] : 's')).join('');
const idOf = (name: string) => given(chain.entries.find((entry) => entry.name === name)).id;
function moved(name: string, before: string | null): Chain {
  const edit = given(moveBefore(chain, idOf(name), before && idOf(before)));
  const applied = applyEdit(chain, edit);
  if (!applied.ok) throw new Error(applied.reason);
  return applied.chain;
}

describe('moving', () => {
  test('a rule before another, and to the end', () => {
    expect(names(moved('E', 'A'))).toBe('EABCD');
    expect(names(moved('A', null))).toBe('BCDEA');
  });
  test('a linked rule takes its run along, and no run is cut', () => {
    expect(names(moved('C', 'A'))).toBe('BCDAE');
    expect(names(moved('E', 'D'))).toBe('AEBCD');
  });
  test('within a run the links stay with the places', () => {
    expect(names(moved('D', 'B'))).toBe('ADBCE');
    expect(links(moved('D', 'B'))).toBe('aaooa');
  });
  test('to where it stands already is no move', () => {
    expect(moveBefore(chain, idOf('A'), idOf('B'))).toBeNull();
    expect(moveBefore(chain, idOf('E'), null)).toBeNull();
  });
});

describe('edits', () => {
  test('are refused on a chain they were not made for', () => {
    const edit = given(moveBefore(chain, idOf('E'), idOf('A')));
    const after = moved('A', null);
    expect(applyEdit(after, edit)).toMatchObject({ ok: false });
    expect(applyEdit(chain, { kind: 'switch', id: 'r1', on: true })).toMatchObject({ ok: false });
    expect(applyEdit(chain, { kind: 'ending', id: 'r9', from: 'stop', to: 'continue' })).toMatchObject({ ok: false });
  });

  test('leave what they do not touch as the same objects', () => {
    const applied = applyEdit(chain, { kind: 'switch', id: 'r1', on: false });
    expect(applied.ok && applied.chain.entries[1]).toBe(chain.entries[1]);
  });

  test('any number of them is taken back by their inverses', () => {
    const ids = chain.entries.map(({ id }) => id);
    const step = fc.tuple(
      fc.constantFrom('move', 'switch', 'ending'),
      fc.constantFrom(...ids),
      fc.constantFrom(...ids, null),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
        let current: Chain = chain;
        const done: Edit[] = [];
        for (const [kind, id, other] of steps) {
          const entry = current.entries.find((candidate) => candidate.id === id);
          const edit: Edit | null =
            kind === 'move'
              ? moveBefore(current, id, other)
              : kind === 'switch'
                ? { kind: 'switch', id, on: !entry?.on }
                : entry?.kind === 'rule'
                  ? { kind: 'ending', id, from: entry.ending, to: entry.ending === 'stop' ? 'continue' : 'stop' }
                  : null;
          if (!edit) continue;
          expect(editWords(current, edit)).not.toContain('undefined');
          const applied = applyEdit(current, edit);
          if (!applied.ok) throw new Error(applied.reason);
          current = applied.chain;
          done.push(edit);
        }
        expect(
          runsOf(current)
            .map((run) => run.length)
            .sort(),
        ).toEqual([1, 1, 3]);
        const back = applyEdits(current, done.reverse().map(invertEdit));
        expect(back.ok && back.chain).toEqual(chain);
      }),
      { numRuns: 300 },
    );
  });
});
