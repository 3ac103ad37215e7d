import fc from 'fast-check';
import { expect, test } from 'vitest';
import { interpreter } from './interpret/interpret';
import { parse } from './parse';
import { print } from './print';
import { quote } from './quote';
import { decodeEncoded, eachString, encodedFaults, literal, mapStrings, stringsIn } from './strings';

const SOURCE = `if anyof (header ["a", "b"] "c", not exists "d") {
  fileinto "e";
  if true { redirect ["f"]; }
}
@;
`;

test('strings are met in the order of the text, wherever they stand', () => {
  const { script } = parse(SOURCE);
  const met: string[] = [];
  eachString(script.commands, ({ value }) => met.push(value));
  expect(met).toEqual(['a', 'b', 'c', 'd', 'e', 'f']);
});

test('every string is changed, and nothing else; what could not be read stays', () => {
  const { script } = parse(SOURCE);
  const changed = script.commands.map((statement) => mapStrings(statement, (value) => value.toUpperCase()));
  const [first, unreadable] = changed;
  expect(print({ ...script, commands: first ? [first] : [] })).toBe(
    print(parse(SOURCE.replace('@;', '').replace(/"([a-f])"/g, (_, letter) => `"${letter.toUpperCase()}"`)).script),
  );
  expect(unreadable).toBe(script.commands[1]);
});

test('the strings of arguments, those of lists included', () => {
  const { script } = parse('x :tag "one" 12 ["two", "three"] [];');
  const [command] = script.commands;
  expect(command?.kind === 'command' && stringsIn(command.args).map(({ value }) => value)).toEqual([
    'one',
    'two',
    'three',
  ]);
});

/** The folder that a script files into, as the interpreter reads it. */
function folderOf(value: string, capabilities: readonly string[]): string | undefined {
  const script = `require ["fileinto", ${capabilities.map(quote).join(', ')}];\nfileinto ${quote(value)};`;
  const { taken } = interpreter(parse(script).script)(
    { fields: [], size: 0, body: new Uint8Array() },
    { from: null, to: null },
  );
  const [first] = taken;
  return first?.action === 'fileinto' ? first.folder : undefined;
}

const tricky = fc
  .array(fc.constantFrom('$', '{', '}', 'hex:', 'unicode:', '40', '24 7b', 'x', '1', ' ', '\\', '"', 'é', '${'), {
    maxLength: 12,
  })
  .map((parts) => `f${parts.join('')}`);

test.each([[['variables']], [['encoded-character']], [['variables', 'encoded-character']]])(
  'any characters are said literally where a script requires %s (RFC 5228 section 2.4.2.4, RFC 5229 section 3)',
  (capabilities) => {
    const reading = {
      variables: capabilities.includes('variables'),
      encoded: capabilities.includes('encoded-character'),
      unset: 'nothing',
    };
    fc.assert(
      fc.property(tricky, (value) => {
        expect(folderOf(literal(value, reading), capabilities)).toBe(value);
      }),
      { numRuns: 2000 },
    );
  },
);

test('without either, nothing is changed', () => {
  expect(literal('${x} ${hex:40}', { variables: false, encoded: false, unset: 'nothing' })).toBe('${x} ${hex:40}');
});

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
