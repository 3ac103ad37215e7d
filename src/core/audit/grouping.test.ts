import { expect, test } from 'vitest';
import type { Finding, Statement } from './finding';
import { grouped, isConfirmed, withoutRepeated } from './grouping';
import type { FindingKind } from './kind-words';

const finding = (kind: FindingKind, rules: string, more: Partial<Finding> = {}): Finding => ({
  key: `${kind} ${rules}`,
  kind,
  rules: rules.split(' '),
  certainty: 'proved',
  consequence: 'misplaced',
  claim: '',
  messages: [],
  witness: null,
  strength: null,
  repairs: [],
  ...more,
});
const keys = (findings: readonly Statement[]) => findings.map(({ key }) => key);

test('what a stronger finding says already is not repeated', () => {
  const shadowed = finding('shadowed', 'b a');
  expect(
    keys(
      withoutRepeated([
        shadowed,
        finding('order-conflict', 'a b'),
        finding('cut-short', 'a b'),
        finding('idle', 'b', { certainty: 'observed' }),
        finding('overlap', 'a b'),
        finding('mergeable', 'b c'),
        finding('idle', 'c', { certainty: 'observed' }),
      ]),
    ),
  ).toEqual(['shadowed b a', 'idle c']);
  expect(
    keys(withoutRepeated([finding('redundant', 'a'), finding('subsumed-test', 'a'), finding('mergeable', 'a b')])),
  ).toEqual(['redundant a']);
  // An undecided finding says nothing about the others.
  const open = finding('shadowed', 'b', { certainty: 'undecided' });
  expect(keys(withoutRepeated([open, finding('subsumed-test', 'b')]))).toEqual(['shadowed b', 'subsumed-test b']);
});

test('one rule that shadows twelve is one group, and so are pairs with a rule in common', () => {
  const twelve = Array.from({ length: 12 }, (_, at) => finding('shadowed', `r${at} wide`));
  expect(grouped(twelve).map(({ members }) => members.length)).toEqual([12]);
  const pairs = ['a late', 'b late', 'c late', 'c d'].map((rules) => finding('cut-short', rules, { messages: [1] }));
  expect(grouped(pairs).map(({ members }) => keys(members))).toEqual([
    ['cut-short a late', 'cut-short b late', 'cut-short c late'],
    ['cut-short c d'],
  ]);
});

test('what only a made-up message shows is told apart', () => {
  const witness = { open: 'Subject: a\n\n', size: 12, from: null, to: null };
  expect(isConfirmed(finding('overlap', 'a b', { witness }))).toBe(false);
  expect(isConfirmed(finding('redundant', 'a'))).toBe(true);
  const [stored, possible] = [finding('cut-short', 'a b', { messages: [3] }), finding('cut-short', 'a c', { witness })];
  expect(grouped([stored, possible]).length).toBe(2);
});
