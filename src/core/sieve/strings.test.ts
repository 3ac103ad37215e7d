import { expect, test } from 'vitest';
import { parse } from './parse';
import { print } from './print';
import { eachString, mapStrings, stringsIn } from './strings';

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
