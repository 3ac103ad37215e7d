import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fullScriptText } from '../agreement/arbitrary';
import { keysOf } from '../text/lookup';
import { Lexer, readNumber, TOKEN } from './tokens';

/** The tokens of a script: kind and text of each. */
function tokensOf(source: string) {
  const lexer = new Lexer(source);
  const found: [string, string][] = [];
  for (lexer.next(); lexer.kind !== TOKEN.end; lexer.next()) {
    const kind = keysOf(TOKEN).find((name) => TOKEN[name] === lexer.kind) ?? '';
    found.push([kind, lexer.text]);
  }
  return { found, lexer };
}

const kindsOf = (source: string) => tokensOf(source).found.map(([kind]) => kind);
const codesOf = (source: string) => tokensOf(source).lexer.diagnostics.map(({ code }) => code);

function valueIn(source: string): string {
  const lexer = new Lexer(source);
  lexer.next();
  return lexer.value();
}

describe('tokens (RFC 5228 section 8.1)', () => {
  test('of every kind, with blanks and comments between them', () => {
    const { found, lexer } = tokensOf('if # why\r\n  header :is ["a", "b\\"c"] /* so */ { stop; } 2M');
    expect(found.map(([kind]) => kind)).toEqual([
      'identifier',
      'identifier',
      'tag',
      '[',
      'quoted',
      ',',
      'escaped',
      ']',
      '{',
      'identifier',
      ';',
      '}',
      'number',
    ]);
    expect(lexer.comments.map(({ form, text }) => [form, text])).toEqual([
      ['hash', 'why'],
      ['bracket', 'so'],
    ]);
    expect(lexer.diagnostics).toEqual([]);
  });

  test('names are caseless, numbers have a quantifier of any case (section 2.4.1)', () => {
    const lexer = new Lexer('FileInto :Copy 3k');
    lexer.next();
    expect(lexer.name).toBe('fileinto');
    lexer.next();
    expect([lexer.name, lexer.text]).toEqual(['copy', ':Copy']);
    lexer.next();
    expect(lexer.number()).toEqual({ value: 3072, quantifier: 'K' });
    expect(readNumber('7')).toEqual({ value: 7, quantifier: null });
    for (const bad of ['', 'K', '1T', '-1', '1 K']) expect(readNumber(bad)).toBeNull();
  });

  test('escapes in strings: a backslash before any character but a quote or itself is nothing (section 2.4.2)', () => {
    expect(valueIn('"a\\"b\\\\c\\d"')).toBe('a"b\\cd');
    expect(valueIn('"plain"')).toBe('plain');
    expect(valueIn('"two\r\nlines"')).toBe('two\r\nlines');
  });

  test('a text of several lines ends at a single dot; doubled dots are one (section 2.4.2)', () => {
    expect(valueIn('text: # note\r\n..a\r\nb\r\n.\r\n')).toBe('.a\r\nb\r\n');
    expect(kindsOf('text:\n.\n;')).toEqual(['multiline', ';']);
  });

  test('what is not closed is told once, and reading ends', () => {
    for (const open of ['"abc', '/* abc', 'text:\r\nabc\r\n']) {
      expect(codesOf(open)).toHaveLength(1);
      expect(codesOf(open)[0]).toMatch(/^unclosed-/);
    }
  });

  test('characters that begin no token are invalid, and told', () => {
    expect(kindsOf('stop % ;')).toEqual(['identifier', 'invalid', ';']);
    expect(codesOf('stop % ;')).toHaveLength(1);
  });
});

test('the tokens of a script and what stands between them are the whole of it', () => {
  fc.assert(
    fc.property(fc.oneof(fullScriptText, fc.string({ unit: 'grapheme' })), (source) => {
      const lexer = new Lexer(source);
      let end = 0;
      for (lexer.next(); lexer.kind !== TOKEN.end; lexer.next()) {
        expect(lexer.start).toBeGreaterThanOrEqual(end);
        expect(lexer.end).toBeGreaterThan(lexer.start);
        end = lexer.end;
      }
      expect(lexer.start).toBe(source.length);
    }),
    { numRuns: 300 },
  );
});

test('a token is read again from its place, without telling comments and faults twice', () => {
  const lexer = new Lexer('# a\nif % stop');
  lexer.next();
  const { place } = lexer;
  const first = lexer.text;
  while (lexer.kind !== TOKEN.end) lexer.next();
  const told = [lexer.comments.length, lexer.diagnostics.length];
  lexer.goTo(place);
  expect(lexer.text).toBe(first);
  while (lexer.kind !== TOKEN.end) lexer.next();
  expect([lexer.comments.length, lexer.diagnostics.length]).toEqual(told);
});
