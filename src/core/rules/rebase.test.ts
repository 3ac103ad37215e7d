import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given, ruleAt } from '../../../test/given';
import { elementAt } from '../text/lookup';
import { applyEdit, applyEdits, type Edit, invertEdit, moveBefore, removal, rewriting } from './edit';
import { chainFromSieve } from './from-sieve';
import { rebase } from './rebase';
import type { Chain, Rule, TestTree } from './rule';

const { chain } = chainFromSieve(
  ['A', 'B', 'C', 'D', 'E'].map((name) => `# ${name}\nif exists "${name}" { keep; }`).join('\n\n'),
);
const ruleOf = (name: string, of: Chain = chain) => ruleAt(of.entries, name);
const names = (of: Chain) => of.entries.map(({ name }) => name).join('');
const made = (edits: readonly Edit[], of: Chain = chain): Chain => {
  const applied = applyEdits(of, edits);
  if (!applied.ok) throw new Error(applied.reason);
  return applied.chain;
};
const change = (name: string, parts: Partial<Rule>, of: Chain = chain): Edit => {
  const rule = ruleOf(name, of);
  return rewriting(of.entries.indexOf(rule), [rule], [{ ...rule, ...parts }]);
};
const exists = (header: string): TestTree => ({ kind: 'leaf', test: { test: 'exists', headers: [header] } });

describe('an edit on a chain that was changed meanwhile', () => {
  test('finds its rule wherever it stands now', () => {
    const moved = made([given(moveBefore(chain, ruleOf('D').id, ruleOf('A').id))]);
    const found = rebase(chain, [change('D', { name: 'd' })], moved);
    expect(found.ok && names(found.chain)).toBe('dABCE');
  });
  test('is joined with what was changed in other parts of the same rule', () => {
    const onto = made([change('B', { ending: 'stop' })]);
    const found = rebase(chain, [change('B', { unless: [exists('x')] })], onto);
    expect(found.ok && ruleOf('B', found.chain)).toMatchObject({ ending: 'stop', unless: [exists('x')] });
  });
  test('exceptions that both add are all there', () => {
    const onto = made([change('B', { unless: [exists('x')] })]);
    const found = rebase(chain, [change('B', { unless: [exists('y')] })], onto);
    expect(found.ok && ruleOf('B', found.chain).unless).toEqual([exists('x'), exists('y')]);
  });
  test('is refused where both change the same tests, and the rule is named', () => {
    const onto = made([change('B', { tests: exists('x') })]);
    const found = rebase(chain, [change('B', { tests: exists('y') })], onto);
    expect(found).toMatchObject({ ok: false, ids: [ruleOf('B').id] });
    expect(!found.ok && found.words).toContain('the tests of “B”');
  });
  test('what is done already is nothing', () => {
    const off: Edit = { kind: 'switch', id: ruleOf('C').id, on: false };
    const found = rebase(chain, [off], made([off]));
    expect(found.ok && found.edits).toEqual([]);
    const gone = removal(chain, ruleOf('C'));
    const twice = rebase(chain, [gone], made([gone]));
    expect(twice.ok && twice.edits).toEqual([]);
  });
  test('a rule that is gone cannot be changed, nor one taken out that was changed', () => {
    const gone = removal(chain, ruleOf('C'));
    expect(rebase(chain, [change('C', { name: 'c' })], made([gone])).ok).toBe(false);
    expect(rebase(chain, [gone], made([change('C', { name: 'c' })])).ok).toBe(false);
  });
  test('a new rule stands behind what it was written behind', () => {
    const fresh = rewriting(2, [], [{ ...ruleOf('A'), id: 'new', name: 'N' }]);
    const moved = made([given(moveBefore(chain, ruleOf('B').id, null))]);
    const found = rebase(chain, [fresh], moved);
    expect(found.ok && names(found.chain)).toBe('ACDEBN');
  });
  test('a change in the middle is taken back, and those after it stay', () => {
    const edits = [change('A', { ending: 'stop' }), removal(chain, ruleOf('C'))];
    const later = made(edits);
    const third = change('E', { name: 'e' }, later);
    const draft = made([third], later);
    const base = made(edits);
    const found = rebase(base, [invertEdit(elementAt(edits, 1))], draft);
    expect(found.ok && names(found.chain)).toBe('ABCDe');
  });
});

describe('two changes of different rules', () => {
  const edit = (name: string): fc.Arbitrary<Edit> =>
    fc.oneof(
      fc.constant<Edit>({ kind: 'switch', id: ruleOf(name).id, on: false }),
      fc.constant(change(name, { name: name.toLowerCase() })),
      fc.constant(removal(chain, ruleOf(name))),
      fc.constantFrom('A', 'B', 'C', 'D', 'E', null).map((before) => {
        const id = before === null ? null : ruleOf(before).id;
        return moveBefore(chain, ruleOf(name).id, id) ?? change(name, { note: 'x' });
      }),
    );
  test('can always be had together, in either order, and come to the same rules', () => {
    fc.assert(
      fc.property(edit('B'), edit('D'), (first, second) => {
        const [one, other] = [rebase(chain, [second], made([first])), rebase(chain, [first], made([second]))];
        if (!one.ok || !other.ok) throw new Error('refused');
        const sorted = (of: Chain) => of.entries.toSorted((a, b) => a.id.localeCompare(b.id));
        expect(sorted(one.chain)).toEqual(sorted(other.chain));
      }),
    );
  });
});

describe('lists', () => {
  const list = (...keys: string[]) => ({ id: 'l', name: 'Team', keys });
  const fresh: Edit = { kind: 'list', id: 'l', from: null, to: list('a', 'b') };
  const using = (keys: readonly string[]): TestTree => ({
    kind: 'leaf',
    test: {
      test: 'address',
      headers: ['from'],
      part: 'all',
      match: 'is',
      comparator: 'i;ascii-casemap',
      keys,
      list: 'l',
    },
  });
  const withList = made([fresh]);
  const used = made([change('A', { tests: using(['a', 'b']) }, withList)], withList);

  test('a change of one is a change of all tests that use it, and can be taken back', () => {
    const edit: Edit = { kind: 'list', id: 'l', from: list('a', 'b'), to: list('b', 'c') };
    const after = made([edit], used);
    expect(ruleOf('A', after).tests).toEqual(using(['b', 'c']));
    expect(made([invertEdit(edit)], after)).toEqual(used);
  });
  test('keys that both add are all there', () => {
    const edit = (...keys: string[]): Edit => ({ kind: 'list', id: 'l', from: list('a', 'b'), to: list(...keys) });
    const found = rebase(used, [edit('b')], made([edit('a', 'b', 'c')], used));
    expect(found.ok && found.chain.lists).toEqual([list('b', 'c')]);
  });
  test('one that is used is neither empty nor given up, and no test carries other keys', () => {
    const edit = (to: ReturnType<typeof list> | null): Edit => ({ kind: 'list', id: 'l', from: list('a', 'b'), to });
    expect(applyEdit(used, edit(null)).ok).toBe(false);
    expect(applyEdit(used, edit(list())).ok).toBe(false);
    expect(applyEdit(withList, edit(null)).ok).toBe(true);
    expect(applyEdit(withList, change('A', { tests: using(['a']) }, withList)).ok).toBe(false);
  });
});
