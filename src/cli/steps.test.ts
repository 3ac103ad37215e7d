import { expect, test } from 'vitest';
import { cli, write } from '../../test/cli';
import { ownJson } from '../core/text/lookup';

const from = write(
  'from.sieve',
  `require "fileinto";
# Bills
if header :contains "subject" "invoice" { fileinto "Bills"; stop; }
# Prizes
if header :contains "subject" "prize" { discard; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
`,
);
const to = write(
  'to.sieve',
  `require "fileinto";
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
# Bills
if header :contains "subject" ["invoice", "bill"] { fileinto "Bills"; stop; }
# Lime
if header :contains "subject" "lime" { fileinto "Lime"; stop; }
`,
);

interface StepLine {
  readonly do: string;
  readonly rule: string;
  readonly place: number | null;
}

const parsed = (out: string): StepLine[] =>
  out
    .trim()
    .split('\n')
    .map((line) => ownJson<StepLine>(line));

test('the steps by hand from one chain to another, each with a message to try it with', () => {
  const { status, out, err } = cli('steps', '--rules', from, '--with', to);
  expect([status, err]).toEqual([0, '']);
  const lines = parsed(out);
  expect(lines.map(({ do: does, rule, place }) => [does, rule, place])).toEqual([
    ['add', 'Lime', 4],
    ['change', 'Bills', 1],
    // Before it is moved: mail about an invoice and a prize would be discarded half way.
    ['delete', 'Prizes', null],
    ['move', 'Bills', 2],
  ]);
  expect(lines[1]).toEqual({
    step: 2,
    do: 'change',
    rule: 'Bills',
    place: 1,
    before: 'When the subject contains “invoice”: file into “Bills”, then stop.',
    after: 'When the subject contains “invoice” or “bill”: file into “Bills”, then stop.',
    cannot: [],
    test: { message: expect.stringMatching(/^Subject: .*(invoice|bill)/m), folders: ['Bills'] },
  });
  expect(lines[2]).toMatchObject({ after: null, test: { folders: ['INBOX'] } });
});

test('a program without an order is told of none, and what it cannot do', () => {
  const profile = write('none.json', JSON.stringify({ order: 'none', ending: 'all', inbox: 'place', delete: 'bin' }));
  const lines = parsed(cli('steps', '--rules', from, '--with', to, '--profile', profile).out);
  expect(lines.map(({ do: does, rule, place }) => [does, rule, place])).toEqual([
    ['add', 'Lime', null],
    ['change', 'Bills', null],
    ['delete', 'Prizes', null],
  ]);
  expect(lines[0]).toMatchObject({
    after: 'When the subject contains “lime”: file into “Lime”.',
    cannot: ['It cannot be said of one rule whether later rules act: every rule that matches acts.'],
  });
});

test('nothing to do is no line', () => {
  expect(cli('steps', '--rules', from, '--with', from)).toEqual({ status: 0, out: '', err: '' });
});
