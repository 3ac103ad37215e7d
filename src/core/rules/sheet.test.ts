import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { ruleChain } from '../agreement/arbitrary-rules';
import { ownJson } from '../text/lookup';
import { chainFromSieve } from './from-sieve';
import type { Rule } from './rule';
import { sentenceOf } from './sentence';
import { columnNamed, rowOfRule, ruleOfRow, type SheetRow } from './sheet';

const read = (row: SheetRow): Rule => {
  const reading = ruleOfRow(row, 'x');
  if (!reading.ok) throw new Error(JSON.stringify(reading.faults));
  return reading.rule;
};
const faults = (row: SheetRow) => {
  const reading = ruleOfRow({ name: 'x', ...row }, 'x');
  return reading.ok ? [] : reading.faults.map(({ column, words }) => `${column}: ${words}`);
};
const ruleFrom = (script: string) => ruleAt(chainFromSieve(script).chain.entries, 0);

test('columns are known by their titles, by those of earlier versions, and by their ids; an empty title is none', () => {
  expect(
    ['Discard', 'drop', 'Keep it too', ' ends HERE ', 'Sender', 'Text has', '', 'Colour'].map(columnNamed),
  ).toEqual(['drop', 'drop', 'forwardCopy', 'ending', 'sender', 'text', null, null]);
});

describe('a row', () => {
  test('says a rule in plain cells', () => {
    const rule = read({
      name: 'Oak',
      sender: 'a@oak.example; @yard.example; Ann',
      subject: 'beam; joist',
      folder: 'Suppliers/Oak',
    });
    expect(sentenceOf(rule)).toBe(
      'When (the address in From is “a@oak.example”, the domain of From is “yard.example” or From contains “Ann”), and the subject contains “beam” or “joist”: file into “Suppliers/Oak”, then stop.',
    );
  });
  test('with any of its tests, exceptions, flags and a redirect', () => {
    const rule = read({
      name: 'x',
      list: 'mill',
      text: 'lime',
      which: 'any',
      exceptSender: '@x.example',
      flags: '\\Flagged; $Oak',
      forward: 'a@b.example',
      ending: 'no',
    });
    expect(rule.tests.kind).toBe('any');
    expect(rule.unless).toHaveLength(1);
    expect(rule.actions).toEqual([
      { action: 'addflag', flags: ['\\Flagged', '$Oak'] },
      { action: 'redirect', address: 'a@b.example', copy: true },
    ]);
    expect(rule.ending).toBe('continue');
  });
  test('of which nothing is said holds for all mail', () => {
    expect(read({ name: 'x', drop: 'yes' }).tests).toEqual({ kind: 'all', children: [] });
  });
});

test('each cell that is wrong is told by itself', () => {
  expect(
    faults({
      name: ' ',
      sender: 'a@b@c',
      on: 'perhaps',
      which: 'some',
      forward: 'nobody',
      folder: 'a\u0007',
      flags: 'two words',
      tests: 'header',
      actions: 'fileinto',
      copy: 'maybe',
    }),
  ).toEqual([
    'name: The rule has no name.',
    'flags: “two words” cannot be a flag: a keyword is one word without spaces.',
    'folder: The folder name contains a control character.',
    'copy: Enter yes or no.',
    'forward: “nobody” is not a complete address.',
    expect.stringMatching(/^actions: As Sieve: /),
    'on: Enter yes or no.',
    'sender: “a@b@c” is not a complete address.',
    expect.stringMatching(/^tests: As Sieve: /),
    'which: Enter all or any.',
  ]);
  expect(faults({ copy: 'yes' })).toEqual(['copy: A copy needs a folder.']);
});

describe('a rule as a row', () => {
  test('stands in plain cells where these say it', () => {
    const rule = ruleFrom(
      'require ["fileinto", "imap4flags"];\n# Oak\nif anyof (address :is "from" "a@b.example", header :contains "subject" ["oak", "beam"]) { addflag "$Oak"; fileinto "Oak"; stop; }',
    );
    expect(rowOfRule(rule)).toEqual({
      name: 'Oak',
      on: 'yes',
      sender: 'a@b.example',
      subject: 'oak; beam',
      which: 'any',
      flags: '$Oak',
      folder: 'Oak',
      ending: 'yes',
    });
  });
  test('in words of Sieve where they do not', () => {
    const rule = ruleFrom('# Odd\nif header :contains "subject" "a;b" { keep; discard; }');
    expect(rowOfRule(rule)).toMatchObject({ tests: 'header :contains "subject" "a;b"', actions: 'keep;\ndiscard;\n' });
  });
  test('is read back as it was, whatever it is', () => {
    fc.assert(
      fc.property(ruleChain, ({ entries }) => {
        for (const entry of entries) {
          if (entry.kind !== 'rule' || entry.name.trim() === '') continue;
          const rule = { ...entry, name: entry.name.trim(), note: entry.note.trim() };
          const back = ruleOfRow(rowOfRule(rule), rule.id);
          expect(back.ok ? sieveless(back.rule) : back.faults).toEqual(sieveless(rule));
        }
      }),
      { numRuns: 300 },
    );
  });
});

/** Equivalent Sieve may be written differently. */
const sieveless = (rule: Rule) => ownJson(JSON.stringify(rule).replaceAll(/\\[nr]|\s/g, ''));
