import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { trimOf } from './blanks';
import { elementAt, keysOf, known, memberOf, ownJson } from './lookup';
import { joinOctets } from './octets';
import { LineIndex } from './span';

describe('what is looked up', () => {
  test('an element that is there, falsy ones too; one that is not is an error with its place', () => {
    expect(elementAt([0, '', false], 1)).toBe('');
    expect(elementAt('weir', 3)).toBe('r');
    expect(elementAt(new Uint8Array([7]), 0)).toBe(7);
    expect(() => elementAt([1], 1)).toThrow('nothing stands at 1 of 1');
    expect(() => elementAt([1], -1)).toThrow(RangeError);
  });

  test('what a map holds; what it does not is named', () => {
    expect(known(new Map([['oak', 0]]), 'oak', 'the tree')).toBe(0);
    expect(() => known(new Map<string, number>(), 'elm', 'the tree')).toThrow('the tree is not known: elm');
  });

  test('names of a table, and the one that a text is', () => {
    const table = { oak: 1, elm: 2 };
    expect(keysOf(table)).toEqual(['oak', 'elm']);
    expect(memberOf(keysOf(table), 'elm')).toBe('elm');
    for (const other of ['Elm', '', null, undefined, 'toString']) expect(memberOf(keysOf(table), other)).toBeNull();
  });

  test('JSON that was written here comes back as it was', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(JSON.stringify(ownJson(JSON.stringify(value)))).toBe(JSON.stringify(value));
      }),
    );
  });
});

test('characters are taken from both ends only, as a regular expression would', () => {
  fc.assert(
    fc.property(fc.string({ unit: fc.constantFrom(' ', '\t', 'a', 'b') }), (text) => {
      expect(trimOf(' \t', text)).toBe(text.replace(/^[ \t]+|[ \t]+$/g, ''));
    }),
  );
  expect(trimOf('', ' a ')).toBe(' a ');
});

test('octets are joined in their order; a single array is not copied', () => {
  fc.assert(
    fc.property(fc.array(fc.uint8Array()), (parts) => {
      expect(Buffer.from(joinOctets(parts))).toEqual(Buffer.concat(parts));
    }),
  );
  const only = new Uint8Array([1]);
  expect(joinOctets([only])).toBe(only);
});

describe('lines and columns', () => {
  test('are counted from 1, with characters beyond the basic plane as one', () => {
    const index = new LineIndex('a\r\n🌊b\n');
    expect(index.position(0)).toEqual({ line: 1, column: 1 });
    expect(index.position(3)).toEqual({ line: 2, column: 1 });
    expect(index.position(5)).toEqual({ line: 2, column: 2 });
    expect(index.position(99)).toEqual({ line: 3, column: 1 });
    expect(index.position(-1)).toEqual({ line: 1, column: 1 });
  });

  test('of any offsets in any order are those of the text before them', () => {
    const text = fc.string({ unit: fc.constantFrom('a', '\n', '\r', 'é', '🌊') });
    fc.assert(
      fc.property(text, fc.array(fc.nat(40)), (source, offsets) => {
        const index = new LineIndex(source);
        const starts = [0];
        for (const character of source) starts.push((starts.at(-1) ?? 0) + character.length);
        for (const wanted of offsets) {
          const offset = starts[wanted % starts.length] ?? 0;
          const before = source.slice(0, offset);
          const line = before.slice(before.lastIndexOf('\n') + 1);
          expect(index.position(offset)).toEqual({
            line: before.split('\n').length,
            column: Array.from(line).length + 1,
          });
          expect(index.lineStart(offset)).toBe(offset - line.length);
        }
      }),
    );
  });
});
