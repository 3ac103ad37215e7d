import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { print } from '../sieve/print';
import { command, flagged, flagStrings, octets, string, strings, tag, tagged, text } from './arguments';
import {
  addressSubject,
  caseWords,
  fieldName,
  fieldNames,
  joined,
  keysWords,
  matchWords,
  maybeDay,
  maybeMonth,
  maybeWeekday,
} from './words';

describe('words that sentences share', () => {
  test('header fields by their names, spelled as the standards do', () => {
    expect(['SUBJECT', 'x-loop', 'X-Spam-URL', 'list-id', 'MESSAGE-ID', 'from'].map(fieldName)).toEqual([
      'the subject',
      'X-Loop',
      'X-Spam-URL',
      'List-Id',
      'Message-ID',
      'From',
    ]);
    expect(fieldNames(['to', 'cc', 'To'], 'or')).toBe('To or Cc');
  });

  test('keys: up to four are named, of more the first three and how many there are besides', () => {
    expect(keysWords([])).toBe('nothing');
    expect(keysWords(['a'])).toBe('a');
    expect(keysWords(['a', 'b', 'c', 'd'])).toBe('a, b, c or d');
    expect(keysWords(['a', 'b', 'c', 'd', 'e', 'f'])).toBe('a, b, c or any of 3 more');
    fc.assert(
      fc.property(fc.array(fc.constantFrom('x', 'y'), { minLength: 5, maxLength: 40 }), (keys) => {
        const left = Number(/any of (\d+) more/.exec(keysWords(keys))?.[1]);
        expect(left + 3).toBe(keys.length);
      }),
    );
  });

  test('addresses: the one in From, any of those in To', () => {
    expect(addressSubject('domain', ['from', 'sender'])).toBe('the domain of From or Sender');
    expect(addressSubject('address', ['To', 'cc'])).toBe('an address in To or Cc');
  });

  test('of two keys neither is met by a negation, of fields none', () => {
    expect(matchWords('the subject', 'contains', ['“a”', '“b”'], true)).toBe(
      'the subject contains neither “a” nor “b”',
    );
    expect(matchWords('To, Cc or Bcc', 'is', ['“a”'], true)).toBe('none of To, Cc and Bcc is “a”');
    expect(matchWords('a domain in To', 'is', ['“a”', '“b”'], true)).toBe('no domain in To is “a” or “b”');
    expect(matchWords('the envelope sender', 'is', ['“”'], true)).toBe('the envelope sender is not empty');
  });

  test('dates as people write them; what is no date is none (RFC 5260 section 4.2)', () => {
    expect(['2026-01-31', '2026-13-01', '2026-1-31', '2026-01-32'].map(maybeDay)).toEqual([
      '31 January 2026',
      null,
      null,
      null,
    ]);
    expect([maybeMonth('07'), maybeMonth('13'), maybeWeekday('6'), maybeWeekday('7')]).toEqual([
      'July',
      null,
      'Saturday',
      null,
    ]);
  });

  test('lists of words', () => {
    expect([[], ['a'], ['a', 'b'], ['a', 'b', 'c']].map((words) => joined(words, 'and'))).toEqual([
      '',
      'a',
      'a and b',
      'a, b and c',
    ]);
  });

  test('only what is compared case-sensitively says so', () => {
    expect([caseWords('i;octet'), caseWords('i;ascii-casemap')]).toEqual([' (case-sensitive)', '']);
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
