import { expect, test } from 'vitest';
import { ruleAt, rulesOf } from '../../../test/given';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain, Rule } from '../rules/rule';
import { rowOfRule, ruleOfRow } from '../rules/sheet';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { parse } from '../sieve/parse';
import { numbers } from './mutate';

/** A generated script contains only what its rules say, whatever names, folders, keys, notes and addresses contain. */

const STRINGS = 100_000;
const RULES_AT_ONCE = 250;
const PIECES = [
  '"',
  '\\',
  '\\"',
  '";',
  '"; discard; #',
  '*/',
  '/*',
  '#',
  '\n',
  '\r\n',
  '\r',
  '\n# x\n',
  '\nif true { discard; }\n',
  '\u0000',
  '\u2028',
  'text:\n',
  '\n.\n',
  '.\r\n',
  '${x}',
  '${hex:22}',
  '${unicode:22}',
  '{',
  '}',
  ';',
  '[',
  ']',
  ',',
  '§',
  'é',
  '漢',
  '😀',
  '\ud800',
  '\u0085',
  ' ',
  '\t',
  'stop',
  'off: ',
  'on: ',
  '» ',
  '| ',
];

function hostile(next: (below: number) => number): string {
  return Array.from({ length: 1 + next(6) }, () => PIECES[next(PIECES.length)]).join('');
}

const rule = (id: string, [name, note, folder, key, tag]: readonly string[]): Rule => ({
  kind: 'rule',
  id,
  name: name ?? '',
  note: note ?? '',
  on: true,
  tests: {
    kind: 'leaf',
    test: { test: 'header', headers: ['subject'], match: 'is', comparator: 'i;octet', keys: [key ?? ''] },
  },
  unless: [],
  actions: [
    { action: 'fileinto', folder: folder ?? '', copy: false, flags: null },
    { action: 'addflag', flags: [tag ?? ''] },
  ],
  ending: 'stop',
  link: 'always',
});

/** A script cannot contain a NUL or a lone surrogate (RFC 5228 section 2.1); both are reported before. */
const sayable = (text: string): boolean =>
  !/\0|[\ud800-\udfff]/.test(text.replace(/[\ud800-\udbff][\udc00-\udfff]/g, ''));
/** Line ends of strings are CRLF in a script (RFC 5228 section 2.2). */
const lines = (text: string): string => text.replace(/\r\n?|\n/g, '\n');

test('as a script', { timeout: 300_000 }, () => {
  const next = numbers(5228);
  for (let made = 0; made < STRINGS; made += RULES_AT_ONCE * 5) {
    const rules = Array.from({ length: RULES_AT_ONCE }, (_, at) =>
      rule(
        `r${at}`,
        Array.from({ length: 5 }, () => hostile(next)).map((text) => (sayable(text) ? text : 'x')),
      ),
    );
    const chain: Chain = { entries: rules, closing: hostile(next) };
    const { text } = sieveFromChain(chain, 'export', { sentences: true });
    const { script, diagnostics } = parse(text);
    expect([...diagnostics, ...check(script)].map(({ code }) => code)).toEqual([]);
    const back = rulesOf(chainFromSieve(text).chain.entries);
    expect(back.length).toBe(rules.length);
    back.forEach((entry, at) => {
      const meant = ruleAt(rules, at);
      const said = (of: Rule) => [of.tests, of.actions, of.ending, of.unless];
      expect(JSON.parse(lines(JSON.stringify(said(entry))))).toEqual(JSON.parse(lines(JSON.stringify(said(meant)))));
    });
  }
});

test('as a row of a sheet', { timeout: 300_000 }, () => {
  const next = numbers(4180);
  for (let made = 0; made < STRINGS / 20; made += 5) {
    const [name = '', note = '', folder = '', key = '', tag = ''] = Array.from({ length: 5 }, () => hostile(next)).map(
      (text) => (sayable(text) ? text : 'x'),
    );
    const meant = rule('r', [`n${name}`.trim(), note.trim(), folder, key, tag]);
    const reading = ruleOfRow(rowOfRule(meant), 'r');
    if (!reading.ok) throw new Error(JSON.stringify(reading.faults));
    const said = (of: Rule) =>
      lines(
        JSON.stringify([of.tests, of.actions, of.ending, of.unless])
          .replaceAll('\\r\\n', '\\n')
          .replaceAll('\\r', '\\n'),
      );
    expect(said(reading.rule)).toBe(said(meant));
  }
});
