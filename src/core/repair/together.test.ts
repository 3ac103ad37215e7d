import { expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { rewriting } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import { takenTogether } from './together';

const { chain } = chainFromSieve(['A', 'B', 'C'].map((name) => `# ${name}\nif exists "${name}" { keep; }`).join('\n'));
const rule = (name: string) => ruleAt(chain.entries, name);
const off = (name: string) => ({
  title: `off ${name}`,
  edits: [{ kind: 'switch', id: rule(name).id, on: false } as const],
});
const renamed = (name: string, to: string) => ({
  title: to,
  edits: [rewriting(chain.entries.indexOf(rule(name)), [rule(name)], [{ ...rule(name), name: to }])],
});

test('changes of different rules, and of different parts of one, go together', () => {
  const { edits, conflicts } = takenTogether(chain, [off('A'), renamed('A', 'a'), renamed('C', 'c')]);
  expect(conflicts).toEqual([]);
  expect(edits).toHaveLength(3);
});

test('of two that change the same part the second one is left out, and the first one is named', () => {
  const found = takenTogether(chain, [off('B'), renamed('A', 'a'), renamed('A', 'b'), renamed('C', 'c')]);
  expect(found.conflicts).toMatchObject([{ index: 2, against: 1 }]);
  expect(found.conflicts[0]?.words).toContain('the name of “a”');
  expect(found.edits).toHaveLength(3);
});

test('the same change twice is one', () => {
  expect(takenTogether(chain, [off('B'), off('B')])).toEqual({ edits: off('B').edits, conflicts: [] });
});
