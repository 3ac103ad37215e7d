import { expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { type Edit, moveBefore, removal, rewriting } from './edit';
import { changeWords } from './edit-words';
import { chainFromSieve } from './from-sieve';

const { chain } = chainFromSieve('# Oak\nif true { keep; }\n# Lime\nif true { discard; }\n# Weir\nif true { stop; }\n');
const account = (id: string, to: string | null) => ({ kind: 'account', id, from: null, to }) as const;

test('each edit names its rule; many of one kind are told as one', () => {
  const move = moveBefore(chain, 'r3', 'r1');
  const off = { kind: 'switch', id: 'r2', on: false } as const;
  expect(move && changeWords(chain, [move, off])).toBe('Move “Weir” directly before “Oak”; Switch “Lime” off');
  const last = moveBefore(chain, 'r1', null);
  expect(last && changeWords(chain, [last])).toBe('Move “Oak” to the end');
  expect(changeWords(chain, [account('r1', 'a@mill.example')])).toBe('Apply “Oak” only to mail to a@mill.example');
  expect(changeWords(chain, [account('r1', 'a@mill.example'), account('r2', 'a@mill.example')])).toBe(
    'Apply 2 rules only to mail to a@mill.example',
  );
  expect(changeWords(chain, [account('r1', 'a@mill.example'), account('r2', null)])).toBe(
    'Apply “Oak” only to mail to a@mill.example; Apply “Lime” to mail to any address',
  );
  expect(changeWords(chain, [account('r1', null), account('r2', null)])).toBe('Apply 2 rules to mail to any address');
});

test('what is done to more than two rules is told as one', () => {
  const ids = ['r1', 'r2', 'r3'];
  expect(
    changeWords(
      chain,
      ids.map((id) => ({ kind: 'switch', id, on: false }) as const),
    ),
  ).toBe('Switch 3 rules off');
  const mixed = ids.map((id) => ({ kind: 'switch', id, on: id === 'r1' }) as const);
  expect(changeWords(chain, mixed)).toBe('Switch “Oak” on; Switch “Lime” off; Switch “Weir” off');
  const endings = ids.map((id) => ({ kind: 'ending', id, from: 'continue', to: 'stop' }) as const);
  expect(changeWords(chain, endings)).toBe('Let 3 rules stop');
});

test('rules that are added, removed, rewritten under the same or another name', () => {
  const [oak, lime] = [ruleAt(chain.entries, 0), ruleAt(chain.entries, 1)];
  const said = (edit: Edit) => changeWords(chain, [edit]);
  expect(said(removal(chain, oak))).toBe('Remove “Oak”');
  expect(said(rewriting(0, [], [{ ...oak, id: 'n', name: 'Ash' }]))).toBe('Add “Ash”');
  expect(said(rewriting(0, [oak], [{ ...oak, ending: 'stop' }]))).toBe('Rewrite “Oak”');
  expect(said(rewriting(0, [oak], [{ ...oak, name: 'Ash' }]))).toBe('Rewrite “Oak” as “Ash”');
  expect(said(rewriting(0, [oak, lime], [oak]))).toBe('Rewrite 2 rules as “Oak”');
  expect(said({ kind: 'rewrite', from: 0, before: [], after: [], closing: { before: '', after: 'the end' } })).toBe(
    'Rewrite the closing comments',
  );
  expect(
    changeWords(
      chain,
      chain.entries.toReversed().map((entry) => removal(chain, entry)),
    ),
  ).toBe('Remove 3 rules');
});

test('tags: what each rule is given, and as one only where all are given the same', () => {
  const tagged = (tags: readonly string[][], had: readonly string[] = []) =>
    tags.map((list, at) => {
      const rule = { ...ruleAt(chain.entries, at), ...(had.length > 0 ? { tags: had } : {}) };
      return rewriting(at, [rule], [{ ...rule, tags: list }]);
    });
  const said = (edits: readonly Edit[]) => changeWords(chain, edits);
  expect(said(tagged([['wood', 'old']]))).toBe('Tag “Oak” with “wood” and “old”');
  expect(said(tagged([['a', 'b', 'c']]))).toBe('Tag “Oak” with “a” and 2 more');
  expect(said(tagged([[]], ['wood']))).toBe('Remove tags from “Oak”');
  expect(
    said(
      tagged([
        ['wood', 'old'],
        ['wood', 'old'],
        ['wood', 'old'],
      ]),
    ),
  ).toBe('Tag 3 rules with “wood” and “old”');
  expect(said(tagged([['wood'], ['stone'], ['water']]))).toBe(
    'Tag “Oak” with “wood”; Tag “Lime” with “stone”; Tag “Weir” with “water”',
  );
});

test('several rules moved one after the other, and a linked run', () => {
  const moves = (['r1', 'r2', 'r3'] as const).map(
    (id): Edit => ({ kind: 'move', ids: [id], from: 0, to: 2, withinRun: false }),
  );
  expect(changeWords(chain, moves)).toBe('Move 3 rules to the end');
  const { chain: linked } = chainFromSieve(
    '# A\nif exists "a" { keep; }\n# B\nelsif exists "b" { discard; }\n# C\nif exists "c" { stop; }\n',
  );
  const whole = moveBefore(linked, 'r1', null);
  expect(whole && changeWords(linked, [whole])).toBe('Move “A” and 1 linked with it to the end');
});

test('lists: made, given up, called otherwise, keys added and taken out', () => {
  const list = (name: string, ...keys: string[]) => ({ id: 'l', name, keys });
  const said = (from: ReturnType<typeof list> | null, to: ReturnType<typeof list> | null) =>
    changeWords(chain, [{ kind: 'list', id: 'l', from, to }]);
  expect(said(null, list('Yards'))).toBe('Create the list “Yards”');
  expect(said(list('Yards'), null)).toBe('Delete the list “Yards”');
  expect(said(list('Yards', 'a', 'b'), list('Wood', 'b', 'c', 'd', 'e'))).toBe(
    'In the list “Yards”: rename it to “Wood”, add “c” and 2 more, remove “a”',
  );
  expect(said(list('Yards', 'a', 'b'), list('Yards', 'b', 'a'))).toBe('In the list “Yards”: change the order');
});
