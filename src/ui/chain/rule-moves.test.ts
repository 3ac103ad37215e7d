import { describe, expect, test } from 'vitest';
import { applyEdits } from '../../core/rules/edit';
import { chainFromSieve } from '../../core/rules/from-sieve';
import { dropEdit, moveBesideEdit } from './rule-moves';

const { chain } = chainFromSieve('if true { keep; } if true { stop; } if true { discard; } if size :over 1 { keep; }');
const view = {
  rungs: chain.entries.map(({ id, kind }) => ({ id, kind, link: 'always' as const })),
};

function orderAfter(edit: ReturnType<typeof dropEdit>): string | null {
  const applied = edit && applyEdits(chain, [edit]);
  return applied?.ok ? applied.chain.entries.map(({ id }) => id).join(' ') : null;
}

describe('moving a rule', () => {
  test.each([
    ['r1', 'r3', 'before', 'r2 r1 r3 r4'],
    ['r1', 'r3', 'after', 'r2 r3 r1 r4'],
    ['r4', 'r1', 'before', 'r4 r1 r2 r3'],
    ['r1', 'r4', 'after', 'r2 r3 r4 r1'],
    ['r2', 'r3', 'before', null],
    ['r2', 'r1', 'after', null],
  ] as const)('%s beside %s, %s it', (id, other, side, order) => {
    expect(orderAfter(moveBesideEdit(view, id, other, side))).toBe(order);
  });

  test('dropped on another it takes its place, from either side', () => {
    expect(orderAfter(dropEdit(view, 'r1', 'r3'))).toBe('r2 r3 r1 r4');
    expect(orderAfter(dropEdit(view, 'r3', 'r1'))).toBe('r3 r1 r2 r4');
    expect(orderAfter(dropEdit(view, 'r2', 'r2'))).toBeNull();
  });
});
