import { expect, test } from 'vitest';
import { chainFromSieve } from './from-sieve';
import { joinChains } from './lists';
import { markedName, unmarked } from './marks';
import { SIEVE } from './profile';
import { isSame, sameEntry } from './same';

test('plain data is the same whatever the order of fields; lists keep theirs', () => {
  expect(isSame({ a: 1, b: [1, { c: null }] }, { b: [1, { c: null }], a: 1 })).toBe(true);
  for (const [one, other] of [
    [{ a: 1 }, { a: 1, b: undefined }],
    [
      [1, 2],
      [2, 1],
    ],
    [{ a: undefined }, { b: undefined }],
    [null, {}],
    [[], {}],
    ['1', 1],
  ]) {
    expect(isSame(one, other)).toBe(false);
    expect(isSame(other, one)).toBe(false);
  }
});

test('entries are the same whatever their ids and the line ends of their words', () => {
  const read = (source: string) => chainFromSieve(source).chain.entries;
  const block = 'require "variables";\n# Set\nset "a" "b";\nif true { keep; }\n';
  const [unix, dos] = [read(block), read(block.replaceAll('\n', '\r\n'))];
  expect(unix.map(({ kind }) => kind)).toContain('script');
  for (const [at, entry] of unix.entries()) expect(dos[at] && sameEntry(entry, { ...dos[at], id: 'other' })).toBe(true);
  const [rule] = read('# A\nif true { keep; }\n');
  expect(rule && sameEntry(rule, { ...rule, name: 'B' })).toBe(false);
});

test('scripts are joined in their order; what is added gets ids of its own', () => {
  const one = chainFromSieve('# A\nif true { keep; }\n# end of one\n').chain;
  const other = chainFromSieve('# B\nif true { stop; }\n# end of other\n').chain;
  const joined = joinChains(one, other);
  expect(joined.entries.map(({ id, name }) => [id, name])).toEqual([
    ['r1', 'A'],
    ['r2', 'B'],
  ]);
  expect(joined.closing.split('\n')).toHaveLength(2);
  expect(joinChains({ entries: [], closing: '' }, one)).toEqual(one);
  // What was there first has the lists, and says how all of them run.
  const lists = [{ id: 'l1', name: 'Suppliers', keys: ['oak.example'] }];
  const profile = { ...SIEVE, ending: 'all' as const };
  expect(joinChains({ ...one, lists, profile }, other)).toMatchObject({ lists, profile });
  expect(joinChains({ entries: [], closing: '' }, { ...one, lists, profile })).toMatchObject({ lists, profile });
  expect(joinChains(one, { ...other, lists, profile })).not.toHaveProperty('profile');
});

test.each(['Oak', 'off: Oak', 'on: Oak', 'ON:Oak', 'off:', 'offer', 'on'])(
  'the name “%s” is told, on or off',
  (name) => {
    for (const on of [true, false]) expect(unmarked(markedName({ name, on }))).toEqual({ name, on });
  },
);
