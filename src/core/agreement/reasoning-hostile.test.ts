import { expect, test } from 'vitest';
import { compareChains } from '../reason/equivalence';
import { Reach } from '../reason/reach';
import { chainFromSieve } from '../rules/from-sieve';

/** Large or exploding questions are answered, or reported as undecided. */

const chain = (rules: readonly string[]) =>
  chainFromSieve(`require ["fileinto", "imap4flags"];\n${rules.join('\n')}\n`).chain;
const answers = (rules: readonly string[]) => {
  const one = chain(rules);
  const reach = new Reach(one);
  return one.entries.map((_, place) => reach.canFire(place).answer);
};

test('a rule with ten thousand addresses', () => {
  const addresses = Array.from({ length: 10_000 }, (_, n) => `"user${n}@host${n % 700}.example"`).join(', ');
  const all = `if address :is "from" [${addresses}] { fileinto "A"; stop; }`;
  const rules = [
    all,
    'if address :is "from" ["user77@host77.example", "other@x.example"] { fileinto "B"; }',
    'if address :is "from" "user77@host77.example" { fileinto "C"; }',
  ];
  expect(answers(rules)).toEqual(['possible', 'possible', 'shadowed']);
  expect(compareChains(chain(rules), chain([all])).verdict).toBe('different');
  expect(compareChains(chain(rules.slice(0, 1)), chain([all, rules[2] ?? ''])).verdict).toBe('equivalent');
});

test('fifty wildcards', () => {
  const stars = Array.from({ length: 50 }, (_, n) => String.fromCharCode(97 + (n % 5))).join('*');
  const rules = [
    `if header :matches "subject" "*${stars}*" { fileinto "A"; stop; }`,
    `if header :matches "subject" "${'*a*b'.repeat(25)}*" { fileinto "B"; stop; }`,
    `if header :contains "subject" "${'abcde'.repeat(12)}" { fileinto "C"; }`,
  ];
  expect(answers(rules)).toEqual(['possible', 'possible', 'shadowed']);
});

test('wildcards for single characters, which explode when they are made deterministic', () => {
  const before = Array.from({ length: 12 }, (_, n) => {
    const [from, to] = [String.fromCharCode(97 + n), String.fromCharCode(98 + n)];
    return `if header :matches "subject" "*${from}${'?'.repeat(20)}${to}*" { stop; }`;
  });
  const last = `if header :matches "subject" "*a${'?'.repeat(20)}z*" { fileinto "Z"; }`;
  expect(answers([...before, last])).not.toContain('contradiction');
});

test('flags that hundreds of rules set and take away', () => {
  const rules = Array.from({ length: 80 }, (_, n) => {
    return `if header :contains "subject" "k${n}" { ${n % 2 ? 'removeflag' : 'addflag'} "x"; }`;
  });
  const found = answers([...rules, 'if hasflag "x" { fileinto "X"; }']);
  expect(found.slice(0, -1).every((answer) => answer === 'possible')).toBe(true);
  expect(['possible', 'undecided']).toContain(found.at(-1));
});
