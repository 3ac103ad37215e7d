import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { chainFromSieve } from '../rules/from-sieve';
import type { TestTree } from '../rules/rule';
import { checkAll, type Expectation, expectationFault, expectationWords } from './expectations';

const chainOf = (...rules: string[]) =>
  chainFromSieve(`require ["fileinto", "copy", "reject", "variables"];\n${rules.join('\n')}`).chain;
const testsOf = (test: string): TestTree => ruleAt(chainOf(`# x\nif ${test} { keep; }`).entries, 0).tests;
const OWN = new Set(['home.example']);
const fromAnn = testsOf('address :is "from" "ann@people.example"');
const inbox: Expectation = { name: 'Ann', tests: fromAnn, must: { must: 'reach the inbox' } };
const verdict = (expectation: Expectation, ...rules: string[]) => checkAll(chainOf(...rules), expectation, OWN);

describe('for all messages', () => {
  test('holds where no rule takes such mail', () => {
    expect(verdict(inbox, '# A\nif address :is "from" "bob@people.example" { discard; }').verdict).toBe('holds');
  });
  test('is broken by a rule that does, with a message that shows it', () => {
    const found = verdict(inbox, '# A\nif header :contains "subject" "prize" { discard; }');
    expect(found.verdict).toBe('broken');
    if (found.verdict !== 'broken') return;
    expect(found.witness.text()).toMatch(/^From:.*ann@people\.example/m);
    expect(found.witness.text()).toMatch(/^Subject:.*prize/im);
  });
  test('holds where an exception keeps it from that rule', () => {
    const rule =
      '# A\nif allof (header :contains "subject" "prize", not address :is "from" "ann@people.example") { discard; }';
    expect(verdict(inbox, rule).verdict).toBe('holds');
  });
  test('to be kept is more than not to be dropped: what is sent on leaves no copy', () => {
    const rule = '# A\nif address :is "from" "ann@people.example" { redirect "me@away.example"; }';
    expect(verdict({ ...inbox, must: { must: 'not be dropped' } }, rule).verdict).toBe('holds');
    expect(verdict({ ...inbox, must: { must: 'be kept' } }, rule).verdict).toBe('broken');
  });
  test('what is sent to an own domain is not sent outside', () => {
    const must = { must: 'not be sent outside' } as const;
    const to = (domain: string) => `# A\nif true { redirect :copy "me@${domain}"; }`;
    expect(verdict({ ...inbox, must }, to('home.example')).verdict).toBe('holds');
    expect(verdict({ ...inbox, must }, to('HOME.example')).verdict).toBe('holds');
    expect(verdict({ ...inbox, must }, to('away.example')).verdict).toBe('broken');
  });
  test('refused mail is not dropped, but not kept either', () => {
    const rule = '# A\nif address :is "from" "ann@people.example" { reject "no"; }';
    expect(verdict({ ...inbox, must: { must: 'not be dropped' } }, rule).verdict).toBe('holds');
    expect(verdict({ ...inbox, must: { must: 'be kept' } }, rule).verdict).toBe('broken');
  });
  test('what a script block does that is not understood is not taken as settled', () => {
    const block = 'set "x" "${y}"; if string "${x}" "a" { fileinto "${x}"; }';
    expect(verdict({ ...inbox, must: { must: 'end in', folder: 'B' } }, block).verdict).not.toBe('holds');
    expect(verdict({ ...inbox, must: { must: 'not be sent outside' } }, block).verdict).toBe('undecided');
  });
});

test('it says in words what is expected', () => {
  expect(expectationWords(inbox)).toBe('Mail where the address in From is “ann@people.example” must reach the inbox');
  const all = { tests: { kind: 'all', children: [] }, must: { must: 'end in', folder: 'Ä' } } as const;
  expect(expectationWords(all)).toBe('All mail must end in “Ä”');
});

test('what cannot be expected is told', () => {
  expect(expectationFault(inbox)).toBeNull();
  expect(expectationFault({ ...inbox, name: ' ' })).toMatch(/no name/);
  expect(expectationFault({ ...inbox, must: { must: 'end in', folder: '' } })).toMatch(/folder/);
  const flagged: TestTree = {
    kind: 'leaf',
    test: { test: 'hasflag', match: 'is', comparator: 'i;ascii-casemap', keys: ['x'] },
  };
  expect(expectationFault({ ...inbox, tests: flagged })).toMatch(/flags/);
});
