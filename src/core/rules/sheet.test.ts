import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { ruleChain } from '../agreement/arbitrary-rules';
import { ownJson } from '../text/lookup';
import { chainFromSieve } from './from-sieve';
import type { Rule } from './rule';
import { sentenceOf, treeWords } from './sentence';
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
    ['Discard', 'drop', 'Keep it too', ' ends HERE ', 'Sender', 'Text has', '', 'Colour', 'field X-Tag'].map(
      columnNamed,
    ),
  ).toEqual(['drop', 'drop', 'forwardCopy', 'ending', 'sender', 'text', null, null, 'Field X-Tag']);
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
  test('without a test is for all mail, with a warning', () => {
    expect(read({ name: 'x', drop: 'yes' }).tests).toEqual({ kind: 'all', children: [] });
    expect(ruleOfRow({ name: 'x', drop: 'yes' }, 'x')).toMatchObject({
      warnings: [{ words: 'The row has no test: the rule is for all mail.' }],
    });
    expect(ruleOfRow({ name: 'x', size: 'over 5 MB' }, 'x')).toMatchObject({ warnings: [] });
  });
  test.each<[SheetRow, string]>([
    [{ delivered: 'a@b.example' }, 'the address in Delivered-To is “a@b.example”'],
    [{ either: 'oak; ash' }, 'the subject contains “oak” or “ash”, or the body contains “oak” or “ash”'],
    [{ anywhere: 'oak' }, 'the subject, From, To or Cc contains “oak”, or the body contains “oak”'],
    [{ attachment: 'yes' }, 'Content-Disposition in any MIME part contains “attachment”'],
    [{ size: '> 5 MB' }, 'the message is larger than 5 MB'],
    [{ size: 'under 10k' }, 'the message is smaller than 10 KB'],
    [{ only: 'me' }, 'an address in To or Cc is “me@b.example”, and the number of addresses in To and Cc is 1'],
    [{ 'Field X-Tag': 'oak' }, 'X-Tag contains “oak”'],
  ])('%j', (row, words) => {
    const reading = ruleOfRow({ name: 'x', ...row }, 'x', ['me@b.example']);
    const rule = reading.ok ? reading.rule : expect.unreachable();
    expect(treeWords(rule.tests)).toBe(words);
    // It is written as it was read.
    expect(read(rowOfRule(rule)).tests).toEqual(rule.tests);
    expect(rowOfRule(rule)).not.toHaveProperty('tests');
  });
  test('with other actions and exceptions', () => {
    const rule = read({
      name: 'x',
      sender: '@a.example',
      exceptText: 'oak',
      attachment: 'no',
      folder: 'A',
      keep: 'yes',
      seen: 'x',
    });
    expect(rule.unless.map((tree) => treeWords(tree))).toEqual([
      'the body contains “oak”',
      'Content-Disposition in any MIME part contains “attachment”',
    ]);
    expect(rule.actions.map(({ action }) => action)).toEqual(['addflag', 'fileinto', 'keep']);
    expect(faults({ size: 'large' })).toEqual(['size: Enter a size, such as over 5 MB.']);
    expect(faults({ only: 'me' })).toEqual(['only: Your own addresses are not known yet: enter them here.']);
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
    expect(rowOfRule(rule)).toMatchObject({ tests: 'header :contains "subject" "a;b"', keep: 'yes', drop: 'yes' });
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
