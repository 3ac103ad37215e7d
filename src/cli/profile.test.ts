import { describe, expect, test } from 'vitest';
import { cli, write } from '../../test/cli';
import { ownJson } from '../core/text/lookup';

const rules = write(
  'told.sieve',
  `require ["fileinto", "imap4flags"];
# Bills
if header :contains "subject" "invoice" { fileinto "Bills"; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; addflag "\\\\Flagged"; }
# Unwanted
if header :contains "subject" "prize" { discard; }
`,
);
const mail = write(
  'told.mbox',
  ['invoice for oak', 'oak prize', 'none']
    .map((subject, at) => `From a@b Thu Jan  1 10:00:0${at} 2026\nFrom: a@b.example\nSubject: ${subject}\n\nwords\n\n`)
    .join(''),
);
const profile = (name: string, said: object) => write(`${name}.json`, JSON.stringify(said));
const unordered = profile('unordered', {
  order: 'none',
  ending: 'all',
  places: 'several',
  inbox: 'place',
  delete: 'bin',
  deleteWins: true,
});
interface Told {
  readonly deliveries: readonly { readonly folder: string }[];
  readonly fired: readonly string[];
}

const endsIn = (file: string, ...more: string[]): Told[] =>
  cli('simulate', '--rules', file, '--messages', mail, ...more)
    .out.trim()
    .split('\n')
    .map((line) => ownJson<Told>(line));
const foldersOf = (file: string, ...more: string[]) =>
  endsIn(file, ...more).map(({ deliveries }) => deliveries.map(({ folder }) => folder).sort());

describe('--profile', () => {
  test('runs the rules as their program does, and names them as the user does', () => {
    expect(foldersOf(rules)).toEqual([['Bills'], ['Oak'], ['INBOX']]);
    expect(foldersOf(rules, '--profile', unordered)).toEqual([['Bills', 'INBOX', 'Oak'], ['Bin'], ['INBOX']]);
    expect(endsIn(rules, '--profile', unordered).map(({ fired }) => fired)).toEqual([
      ['Bills', 'Oak'],
      ['Oak', 'Unwanted'],
      [],
    ]);
    const last = profile('last', { ending: 'all', places: 'last', delete: 'bin', bin: 'Gone' });
    expect(foldersOf(rules, '--profile', last)).toEqual([['Oak'], ['Gone'], ['INBOX']]);
  });

  test('a script converted under it does the same as Sieve', () => {
    const written = write(
      'in-sieve.sieve',
      cli('convert', '--rules', rules, '--profile', unordered, '--to', 'sieve').out,
    );
    expect(foldersOf(written)).toEqual([['Bills', 'INBOX', 'Oak'], ['Bin'], ['INBOX']]);
    const document = write(
      'in-json.json',
      cli('convert', '--rules', rules, '--profile', unordered, '--to', 'json').out,
    );
    expect(cli('compare', '--rules', document, '--with', written).status).toBe(0);
  });

  test('without an order, findings speak of none', () => {
    const { out } = cli('audit', '--rules', rules, '--profile', unordered, '--all');
    const { findings } = ownJson<{ findings: { kind: string; summary: string }[] }>(out);
    expect(findings.map(({ kind }) => kind)).not.toContain('order-conflict');
    expect(findings.map(({ summary }) => summary).join()).not.toMatch(/before|later|stop/);
  });

  test.each([
    ['no JSON', '{', 'this is not JSON'],
    ['no such value', '{"order":"any"}', /^.*order: /],
    ['contradictory', '{"order":"none","places":"last"}', 'Without an order, every rule that matches acts.'],
  ])('%s is refused', (name, text, why) => {
    const file = write(`${name.replaceAll(' ', '-')}.json`, text);
    const { status, err } = cli('simulate', '--rules', rules, '--profile', file, '--messages', mail);
    expect(status).toBe(1);
    expect(err).toMatch(why);
    expect(err.trim().split('\n')).toHaveLength(1);
  });

  test('rules that only Sieve can run are refused', () => {
    const script = write('variables.sieve', 'require "variables";\nset "a" "b";\n');
    const { status, err } = cli('check', script, '--profile', unordered);
    expect([status, err]).toEqual([1, expect.stringContaining('can only run as Sieve')]);
  });
});
