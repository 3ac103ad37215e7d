import { describe, expect, test } from 'vitest';
import { Recent } from './recent';

describe('what was used last is kept, up to a weight', () => {
  test('the oldest goes first; to use is to be new again', () => {
    const recent = new Recent<string>(5, ({ length }) => length);
    recent.set('a', 'xx');
    recent.set('b', 'xx');
    expect(recent.get('a')).toBe('xx');
    recent.set('c', 'xx');
    expect([recent.get('a'), recent.get('b'), recent.get('c')]).toEqual(['xx', undefined, 'xx']);
  });

  test('a value set anew weighs once; one too heavy is not kept', () => {
    const recent = new Recent<string>(3, ({ length }) => length);
    recent.set('a', 'xxx');
    recent.set('a', 'x');
    recent.set('b', 'xx');
    expect([recent.get('a'), recent.get('b')]).toEqual(['x', 'xx']);
    recent.set('c', 'xxxx');
    expect([recent.get('a'), recent.get('b'), recent.get('c')]).toEqual([undefined, undefined, undefined]);
  });
});
