import { describe, expect, test } from 'vitest';
import type { Rung } from '../../server/chain/view';
import { type Lens, saying, stepped, through } from './lenses';

const rung = (place: number, name: string, more: Partial<Rung> = {}) => ({
  place,
  id: `r${place + 1}`,
  name,
  sentence: `${name}.`,
  note: '',
  targets: [],
  sender: '',
  findings: [],
  ...more,
});
const view = {
  destinations: [
    { key: 'folder:b', label: 'Beams' },
    { key: 'folder:o', label: 'Oak' },
  ],
  rungs: [
    rung(0, 'weir', { targets: ['folder:o'], sender: 'b@x.example' }),
    rung(1, 'Beams', {
      targets: ['folder:b'],
      sender: 'a@y.example',
      findings: [{ key: 'k', kind: 'shadowed', others: [] }],
    }),
    rung(2, 'oak', { findings: [{ key: 'l', kind: 'overlap', others: [] }] }),
    rung(3, 'Oak', { targets: ['folder:o'], sender: 'a@x.example' }),
  ],
};
const places = (lens: Lens, words = '') => through(view, lens, words).map(({ place }) => place);

describe('lenses on the chain', () => {
  test.each<[Lens, number[]]>([
    ['order', [0, 1, 2, 3]],
    ['name', [1, 2, 3, 0]],
    ['destination', [1, 0, 3, 2]],
    ['sender', [3, 0, 1, 2]],
    ['finding', [1, 0, 2, 3]],
  ])('by %s, and within it as they run', (lens, expected) => expect(places(lens)).toEqual(expected));

  test('only those with the words, whatever their case', () => {
    expect(places('order', ' OAK')).toEqual([2, 3]);
    expect(places('name', 'nothing of this')).toEqual([]);
  });

  test('from one rule that is found to the next, and round', () => {
    const found = view.rungs.filter(saying('oak'));
    expect(found.map(({ id }) => id)).toEqual(['r3', 'r4']);
    expect(view.rungs.filter(saying(' '))).toEqual([]);
    const from = (id: string | undefined, step: 1 | -1) => stepped(found, view.rungs, id, step)?.id;
    expect(['r1', 'r3', 'r4'].map((id) => from(id, 1))).toEqual(['r3', 'r4', 'r3']);
    expect(['r1', 'r3', 'r4'].map((id) => from(id, -1))).toEqual(['r4', 'r4', 'r3']);
    expect(from(undefined, 1)).toBe('r3');
    expect(stepped([], view.rungs, 'r1', 1)).toBeUndefined();
  });
});
