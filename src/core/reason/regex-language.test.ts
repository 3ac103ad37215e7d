import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { chainFromSieve } from '../rules/from-sieve';
import { compileRegex } from '../sieve/match/regex';
import { Exploded } from './automata/language';
import { Reach } from './reach';
import { isRegexLanguage, RegexLanguage } from './regex-language';

const walk = (language: RegexLanguage, text: string): boolean => {
  let at = language.start;
  for (const character of text) at = language.step(at, character);
  return language.accepting(at);
};

describe('regular expressions as automata', () => {
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
    '[[:digit:]]',
  );
  const source = fc
    .tuple(
      fc.constantFrom('', '^'),
      fc.array(fc.oneof(atom, fc.constantFrom('|', '$', '^')), { minLength: 1, maxLength: 6 }),
      fc.constantFrom('', '$'),
    )
    .map(([start, atoms, end]) => start + atoms.join('') + end);

  test('hold for the texts in which the engine finds a match', () => {
    const text = fc.string({ unit: fc.constantFrom('a', 'b', 'A', '1', '石', '😀'), maxLength: 7 });
    fc.assert(
      fc.property(source, fc.constantFrom('none' as const, 'ascii' as const), text, (pattern, caseless, value) => {
        if (!isRegexLanguage(pattern)) return;
        expect(walk(new RegexLanguage([pattern], caseless), value)).toBe(
          compileRegex(pattern, caseless).match(value) !== null,
        );
      }),
      { numRuns: 5000 },
    );
  });

  test('a sample is one of its texts', () => {
    fc.assert(
      fc.property(source, (pattern) => {
        if (!isRegexLanguage(pattern)) return;
        for (const sample of new RegexLanguage([pattern], 'none').samples()) {
          expect([pattern, sample, compileRegex(pattern, 'none').match(sample) !== null]).toEqual([
            pattern,
            sample,
            true,
          ]);
        }
      }),
    );
  });

  test('what explodes when it is made deterministic is given up, within bounds', () => {
    const language = new RegexLanguage([`(a|b)*a${'(a|b)'.repeat(20)}$`], 'none');
    const far = () => {
      let seed = 1;
      let at = language.start;
      for (let index = 0; index < 100_000; index++) {
        seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
        at = language.step(at, seed > 2 ** 31 ? 'a' : 'b');
      }
    };
    expect(far).toThrow(Exploded);
  });
});

describe('rules with regular expressions', () => {
  const answers = (...tests: string[]) => {
    const rules = tests.map((one, at) => `if ${one} { fileinto "F${at}"; stop; }`).join('\n');
    const { chain, diagnostics } = chainFromSieve(`require ["fileinto", "regex"];\n${rules}\n`);
    expect(diagnostics).toEqual([]);
    const reach = new Reach(chain);
    return chain.entries.map((_, place) => reach.canFire(place));
  };
  const order = 'header :regex "subject" "order #[0-9]+"';

  test.each([
    [
      ['header :contains "subject" "order #1"', order],
      ['possible', 'possible'],
    ],
    [
      [order, 'header :contains "subject" "order #1"'],
      ['possible', 'shadowed'],
    ],
    [[`allof (${order}, not header :contains "subject" "#")`], ['contradiction']],
    [['allof (header :regex "subject" "^a+$", header :is "subject" "AAA")'], ['possible']],
    [['allof (header :regex :comparator "i;octet" "subject" "^a+$", header :is "subject" "AAA")'], ['possible']],
    [
      ['allof (header :regex :comparator "i;octet" "from" "^a+$", header :is :comparator "i;octet" "from" "AAA")'],
      ['contradiction'],
    ],
    [
      ['address :domain :is "from" "oak.example"', 'address :regex :domain "from" "^oak\\\\.example$"'],
      ['possible', 'shadowed'],
    ],
    [
      ['address :regex :localpart "from" "^(sales|info)$"', 'address :is "from" ["sales@a.example", "info@b.example"]'],
      ['possible', 'shadowed'],
    ],
  ])('%j: %j', (tests, expected) => {
    expect(answers(...tests).map(({ answer }) => answer)).toEqual(expected);
  });

  test('what is found to be possible is a message that the expression matches', () => {
    const [answer] = answers(order);
    expect(answer?.answer === 'possible' && answer.witness.open).toContain('Subject: order #0');
  });

  test('an expression that explodes is undecided, and nothing else is', () => {
    const ending = (either: string) => `header :regex "subject" "${either}*a${either.repeat(22)}$"`;
    // Two notations of the same texts: neither language has a text the other lacks.
    const found = answers(`allof (${ending('(a|b)')}, not ${ending('(b|a)')})`, order);
    expect(found.map(({ answer }) => answer)).toEqual(['undecided', 'possible']);
  });

  test('what could not be settled is no reason to refuse anything that is asked later', () => {
    const ending = (either: string) => `header :regex "subject" "${either}*a${either.repeat(22)}$"`;
    const chain = chainFromSieve(`require ["fileinto", "regex"];
if allof (${ending('(a|b)')}, not ${ending('(b|a)')}) { fileinto "A"; }
if header :contains "x-tag" "oak" { fileinto "B"; }
`).chain;
    const reach = new Reach(chain);
    const both = [reach.condition(0), reach.condition(1)];
    expect(reach.canFire(0).answer).toBe('undecided');
    expect(reach.meet(both, null).answer).toBe('undecided');
    expect(reach.canFire(1).answer).toBe('possible');
  });
});
