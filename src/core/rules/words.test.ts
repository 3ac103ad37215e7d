import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { print } from '../sieve/print';
import { command, flagged, flagStrings, octets, string, strings, tag, tagged, text } from './arguments';
import { addressee, caseWords, headerWords, joined, keysWords } from './words';

describe('words that sentences share', () => {
  test('headers by their names, the usual ones as people say them', () => {
    expect(headerWords(['SUBJECT'])).toBe('the subject');
    expect(headerWords(['X-Loop'])).toBe('the header X-Loop');
    expect(headerWords(['to', 'cc'])).toBe('one of the headers to, cc');
    expect(['From', 'to', 'Cc', 'BCC', 'Sender'].map(addressee)).toEqual([
      'of the sender',
      'in To',
      'in Cc',
      'in Bcc',
      'in Sender',
    ]);
  });

  test('keys: up to four are named, of more the first three and how many there are besides', () => {
    expect(keysWords([])).toBe('nothing');
    expect(keysWords(['a'])).toBe('“a”');
    expect(keysWords(['a', 'b', 'c', 'd'])).toBe('“a”, “b”, “c” or “d”');
    expect(keysWords(['a', 'b', 'c', 'd', 'e', 'f'])).toBe('“a”, “b”, “c” or one of 3 more');
    fc.assert(
      fc.property(fc.array(fc.constantFrom('x', 'y'), { minLength: 5, maxLength: 40 }), (keys) => {
        const left = Number(/one of (\d+) more/.exec(keysWords(keys))?.[1]);
        expect(left + 3).toBe(keys.length);
      }),
    );
  });

  test('lists of words', () => {
    expect([[], ['a'], ['a', 'b'], ['a', 'b', 'c']].map((words) => joined(words, 'and'))).toEqual([
      '',
      'a',
      'a and b',
      'a, b and c',
    ]);
  });

  test('only what is compared to the letter says so', () => {
    expect([caseWords('i;octet'), caseWords('i;ascii-casemap')]).toEqual([' to the letter', '']);
  });
});

describe('arguments of nodes', () => {
  const written = (...args: Parameters<typeof command>[1]) =>
    print({ kind: 'script', source: '', commands: [command('x', args)], trailing: [] }).trim();

  test('a single string stands without brackets, none and several within them', () => {
    expect(written(strings(['a']))).toBe('x "a";');
    expect(written(strings(['a', 'b']))).toBe('x ["a", "b"];');
  });

  test('numbers with the largest quantifier that leaves a whole one (RFC 5228 section 2.4.1)', () => {
    expect([0, 1, 1024, 1536, 3 * 1024 ** 2, 2 * 1024 ** 3].map((value) => written(octets(value)))).toEqual([
      'x 0;',
      'x 1;',
      'x 1K;',
      'x 1536;',
      'x 3M;',
      'x 2G;',
    ]);
  });

  test('tags with what they are given, and none where nothing is', () => {
    expect(written(tag('copy'), ...tagged('handle', string('h')), ...flagged('mime', true))).toBe(
      'x :copy :handle "h" :mime;',
    );
    expect([tagged('handle', undefined), flagged('mime', undefined), flagged('mime', false)]).toEqual([[], [], []]);
    expect(written(flagStrings([]))).toBe('x "";');
  });

  test('whole lines stand in the form of several lines', () => {
    expect(text('one\r\ntwo\r\n').form).toBe('multiline');
    for (const other of ['', 'one', 'one\r\ntwo', 'one\n']) expect(text(other).form).toBe('quoted');
  });
});
