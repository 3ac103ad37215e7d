import { expect, test } from 'vitest';
import { Region, regionStates } from './region';

const region = (most: number, entries?: number) =>
  new Region<{ readonly text: string }>({
    name: 'tried',
    most,
    weigh: ({ text }) => text.length,
    ...(entries === undefined ? {} : { entries }),
  });
const textsOf = (some: ReturnType<typeof region>) => ['a', 'b', 'c'].map((key) => some.get(key)?.text);

test('the oldest goes first; to use is to be new again', () => {
  const tried = region(5);
  tried.set('a', { text: 'xx' });
  tried.set('b', { text: 'xx' });
  expect(tried.get('a')?.text).toBe('xx');
  tried.set('c', { text: 'xx' });
  expect(textsOf(tried)).toEqual(['xx', undefined, 'xx']);
});

test('a value set anew weighs once; one too heavy is kept alone', () => {
  const tried = region(3);
  tried.set('a', { text: 'xxx' });
  tried.set('a', { text: 'x' });
  tried.set('b', { text: 'xx' });
  expect(textsOf(tried)).toEqual(['x', 'xx', undefined]);
  tried.set('c', { text: 'xxxx' });
  expect(textsOf(tried)).toEqual([undefined, undefined, 'xxxx']);
});

test('how much is held is told, also where the number of values is what bounds it', () => {
  const tried = region(100, 2);
  for (const key of ['a', 'b', 'c']) tried.set(key, { text: 'xyz' });
  expect(regionStates().at(-1)).toEqual({ name: 'tried', entries: 2, held: 6, most: 100 });
});
