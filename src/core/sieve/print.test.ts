import { expect, test } from 'vitest';
import { parse } from './parse';
import { print } from './print';

/** A test of so many levels. */
const nested = (levels: number): string =>
  Array.from({ length: levels }).reduce<string>(
    (inner, _, at) => `${at % 2 === 0 ? 'anyof' : 'allof'} (${inner}, exists "x-level-${at}")`,
    'exists "x"',
  );
const printed = (source: string): string => print(parse(source).script);

test('tests stand in one line where they fit, else each in its own', () => {
  expect(printed('if anyof(exists "a",exists "b"){}')).toBe('if anyof (exists "a", exists "b") {\n}\n');
  const long = 'x'.repeat(40);
  expect(printed(`if anyof(exists "${long}",exists "${long}"){}`)).toBe(
    `if anyof (\n    exists "${long}",\n    exists "${long}"\n) {\n}\n`,
  );
});

// Each level was once printed twice by the one above it: 60 levels would never end.
test('the deepest tests that are read are printed as any other, and read back', () => {
  const once = printed(`if ${nested(60)} { discard; }`);
  expect(printed(once)).toBe(once);
  expect(once.split('\n').length).toBeGreaterThan(100);
});
