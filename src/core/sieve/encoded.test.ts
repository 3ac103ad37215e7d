import { expect, test } from 'vitest';
import { decodeEncoded, encodedFaults } from './encoded';
import { parse } from './parse';
import { stringsIn } from './strings';

const REQUIRE = 'require "encoded-character";';
function decoded(text: string, requires = REQUIRE): string | undefined {
  const { script } = parse(`${requires} redirect "${text}";`);
  const last = decodeEncoded(script).commands.at(-1);
  return last?.kind === 'command' ? stringsIn(last.args)[0]?.value : undefined;
}

// The examples of RFC 5228 section 2.4.2.4, from memory.
test.each([
  ['$${hex:40}', '$@'],
  ['${hex: 40 }', '@'],
  ['${HEX: 40}', '@'],
  ['${hex:40', '${hex:40'],
  ['${hex:400}', '${hex:400}'],
  ['${hex:4${hex:30}}', '${hex:40}'],
  ['${unicode:40}', '@'],
  ['${ unicode:40}', '${ unicode:40}'],
  ['${UNICODE:40}', '@'],
  ['${UnICoDE:0000040}', '@'],
  ['${Unicode:40}', '@'],
  ['${Unicode:Cool}', '${Unicode:Cool}'],
  ['${unicode:200000}', '${unicode:200000}'],
  ['${unicode:20ac 41}', '€A'],
  ['${hex:e2 82 ac}', '€'],
  ['${hex:e2}${hex:82 ac}', '€'],
  ['${hex:}', '${hex:}'],
])('%s is %s', (written, meant) => {
  expect(decoded(written)).toBe(meant);
});

test('nothing is decoded where the script does not require it, and the tree stays the same object', () => {
  expect(decoded('${hex:40}', '')).toBe('${hex:40}');
  const { script } = parse('keep;');
  expect(decodeEncoded(script)).toBe(script);
});

test.each(['d800', 'dfff', '110000', '200000'])(
  'the number %s is no character: an error (section 2.4.2.4)',
  (number) => {
    const { script } = parse(`${REQUIRE} if header :is "subject" ["a", "\${unicode:${number}}"] { keep; }`);
    expect(encodedFaults(script).map(({ code }) => code)).toEqual(['bad-encoded-character']);
  },
);

test.each(['d7ff', 'e000', '10ffff', '0'])('the number %s is one', (number) => {
  expect(encodedFaults(parse(`${REQUIRE} redirect "\${unicode:${number}}";`).script)).toEqual([]);
});
