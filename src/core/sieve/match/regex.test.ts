import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Caseless, compileRegex, RegexFault } from './regex';

const groups = (source: string, text: string, caseless: Caseless = 'none') =>
  compileRegex(source, caseless)
    .match(text)
    ?.map((span) => span && text.slice(span.start, span.end)) ?? null;

describe('regular expressions (draft-ietf-sieve-regex, POSIX extended)', () => {
  test.each([
    ['a', 'bab', ['a']],
    ['^a', 'ba', null],
    ['a$', 'ab', null],
    ['a|b|cd', 'xcd', ['cd']],
    ['(a+)(b*)', 'xaabby', ['aabb', 'aa', 'bb']],
    ['(a)|(b)', 'b', ['b', null, 'b']],
    ['a{2,3}', 'aaaa', ['aaa']],
    ['a{0,1}b', 'b', ['b']],
    ['a{2}', 'a', null],
    ['[[:digit:]]+', 'order #123.', ['123']],
    ['[^a-c]', 'abcd', ['d']],
    ['[]x]', ']', [']']],
    ['[a-]', '-', ['-']],
    ['\\.', 'a.b', ['.']],
    ['(ab)*c', 'ababc', ['ababc', 'ab']],
    ['x*', 'y', ['']],
    ['.+@(.+)', 'a@b', ['a@b', 'b']],
    // The leftmost, and of those the longest (IEEE Std 1003.1 section 9.1), as glibc has it too.
    ['a|ab', 'ab', ['ab']],
    ['(foo|foobar)', 'foobar', ['foobar', 'foobar']],
    ['(foo|foobar)(bar)?', 'foobar', ['foobar', 'foo', 'bar']],
    ['(ab|a)(bc)?', 'abc', ['abc', 'a', 'bc']],
    ['(a|ab|c|bcd)*(d*)', 'abcd', ['abcd', 'bcd', '']],
    ['(aa|aaa)*', 'aaaaaaa', ['aaaaaaa', 'aaa']],
    ['b|ab', 'ab', ['ab']],
    ['(b|abc)|(ab)', 'xab', ['ab', null, 'ab']],
    ['(a*)*', 'b', ['', '']],
    ['(a*)+', 'b', ['', '']],
    ['(a{0,1}){2}(.*)', 'aa', ['aa', 'a', '']],
    ['((a)|(b))*', 'ab', ['ab', 'b', 'a', 'b']],
  ])('%s on %s', (source, text, expected) => expect(groups(source, text)).toEqual(expected));

  test('case is folded where the comparator folds it', () => {
    expect(groups('OA[K-L]', 'oak', 'ascii')).toEqual(['oak']);
    expect(groups('OAK', 'oak')).toBeNull();
    expect(groups('[[:upper:]]+', 'Oak', 'ascii')).toEqual(['Oak']);
    expect(groups('[^a]', 'A', 'ascii')).toBeNull();
    expect(groups('é', 'É', 'ascii')).toBeNull();
    expect(groups('(é)', 'É', 'unicode')).toEqual(['É', 'É']);
    // Folding the text would make it longer, and all places behind it wrong.
    expect(groups('x(.)', 'İxY', 'unicode')).toEqual(['xY', 'Y']);
  });

  test.each(['(', ')', '[', '*', 'a{', 'a{2,1}', 'a{999}', '(a)\\1', '\\', '[b-a]', '[[:none:]]', '('.repeat(300)])(
    '%s is refused',
    (source) => expect(() => compileRegex(source, 'none')).toThrow(RegexFault),
  );

  test('what explodes elsewhere takes linear time here', () => {
    expect(compileRegex('(a*)*b', 'none').match('a'.repeat(20_000))).toBeNull();
    expect(() => compileRegex('((a{1,255}){1,255}){1,255}', 'none')).toThrow('too large');
  });

  test('agrees with the engine of JavaScript on whether there is a match', () => {
    const atom = fc.constantFrom(
      'a',
      'b',
      '.',
      '[ab]',
      '[^a]',
      '(a|b)',
      '(ab)',
      'a*',
      'b+',
      'a?',
      '(a|)*',
      '(ab?){1,2}',
    );
    const source = fc
      .tuple(
        fc.constantFrom('', '^'),
        fc.array(fc.oneof(atom, fc.constant('|')), { minLength: 1, maxLength: 6 }),
        fc.constantFrom('', '$'),
      )
      .map(([start, atoms, end]) => start + atoms.join('') + end);
    fc.assert(
      fc.property(source, fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 8 }), (pattern, text) => {
        expect(compileRegex(pattern, 'none').match(text) !== null).toBe(new RegExp(pattern).test(text));
      }),
      { numRuns: 3000 },
    );
  });
});
