import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compareChains } from '../reason/equivalence';
import { applyEdits } from '../rules/edit';
import { changeWords } from '../rules/edit-words';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { type BulkChange, bulkEdits } from './bulk';

const chain = chainFromSieve(`require "fileinto";
# A
if header :contains "subject" "a" { fileinto "X"; stop; }
# B
if header :contains "subject" "b" { fileinto "Y"; }
# C
elsif header :contains "subject" "c" { fileinto "Y"; }
# D
if header :contains "subject" "d" { fileinto "X"; stop; }
# E
if address :is "from" "e@x.example" { fileinto "X"; stop; }
`).chain;
const idsOf = (...names: string[]) => chain.entries.filter(({ name }) => names.includes(name)).map(({ id }) => id);

function changed(names: readonly string[], change: BulkChange, before: Chain = chain): Chain | string {
  const found = bulkEdits(before, idsOf(...names), change);
  if (!found.ok) return found.words;
  const after = applyEdits(before, found.edits);
  return after.ok ? after.chain : after.reason;
}
/** The resulting chain; throws if the change was refused. */
function made(answer: Chain | string): Chain {
  if (typeof answer === 'string') throw new Error(answer);
  return answer;
}

const shape = (made: Chain | string): string =>
  typeof made === 'string'
    ? made
    : made.entries
        .map((entry) => `${entry.kind === 'rule' && entry.link === 'otherwise' ? '+' : ''}${entry.name}`)
        .join(' ');

describe('several rules at once', () => {
  test('tagged, and the tag taken off; what has it already is left', () => {
    const tagged = made(changed(['A', 'B'], { change: 'tag', tag: ' mill ', on: true }));
    const tagsOf = (of: Chain) => of.entries.map((entry) => (entry.kind === 'rule' ? (entry.tags ?? []).join() : ''));
    expect(tagsOf(tagged)).toEqual(['mill', 'mill', '', '', '']);
    const all = bulkEdits(tagged, idsOf('A', 'B', 'C', 'D', 'E'), { change: 'tag', tag: 'mill', on: true });
    expect(all.ok && all.edits).toHaveLength(3);
    expect(all.ok && changeWords(tagged, all.edits)).toBe('Tag 3 rules with “mill”');
    const off = made(changed(['A', 'C'], { change: 'tag', tag: 'mill', on: false }, tagged));
    expect(tagsOf(off)).toEqual(['', 'mill', '', '', '']);
    expect(changed(['A'], { change: 'tag', tag: ' ', on: true })).toBe('The tag has no name.');
    expect(compareChains(chain, tagged).verdict).toBe('equivalent');
  });
  test('switched, and given another ending; what is so already is left as it is', () => {
    const off = changed(['A', 'D'], { change: 'switch', on: false });
    expect(typeof off !== 'string' && off.entries.map(({ on }) => on)).toEqual([false, true, true, false, true]);
    expect(bulkEdits(chain, idsOf('A', 'B'), { change: 'switch', on: true })).toEqual({ ok: true, edits: [] });
    const found = bulkEdits(chain, idsOf('A', 'B', 'C'), { change: 'ending', to: 'stop' });
    expect(found.ok && found.edits.map((edit) => edit.kind === 'ending' && edit.id)).toEqual(idsOf('B', 'C'));
  });

  test.each<[string[], string | null, string]>([
    [['D', 'E'], 'A', 'D E A B +C'],
    [['E', 'A'], 'B', 'A E B +C D'],
    [['A', 'B'], null, 'D E A B +C'],
    [['C'], 'A', 'B +C A D E'],
    [['B', 'C'], null, 'A D E B +C'],
    [['A'], 'A', 'The selected rules cannot be moved next to one of themselves.'],
  ])('%j moved to before %s: %s', (names, before, expected) => {
    const target = before === null ? null : (idsOf(before)[0] ?? null);
    expect(shape(changed(names, { change: 'move', before: target }))).toBe(expected);
  });

  test.each([
    [['A', 'E'], 'B +C D'],
    [['B'], 'A C D E'],
    [['C'], 'A B D E'],
    [['B', 'C'], 'A D E'],
    [['A', 'B', 'C', 'D', 'E'], ''],
  ])('%j removed: %s', (names, expected) => {
    expect(shape(changed(names, { change: 'remove' }))).toBe(expected);
  });

  test('merged where they do the same, and told why not where they do not', () => {
    const merged = changed(['A', 'D', 'E'], { change: 'merge' });
    expect(shape(merged)).toBe('A B +C');
    const [first] = typeof merged === 'string' ? [] : merged.entries;
    expect(first?.kind === 'rule' && first.tests).toMatchObject({
      kind: 'any',
      children: [{ test: { keys: ['a', 'd'] } }, {}],
    });
    expect(shape(changed(['A', 'B'], { change: 'merge' }))).toBe('“B” and “A” have different actions.');
    expect(shape(changed(['B', 'C'], { change: 'merge' }))).toBe('“B” belongs to a run of linked rules.');
    expect(shape(changed(['A'], { change: 'merge' }))).toContain('at least two rules');
  });

  test('neighbours that are merged do the same as before', () => {
    const after = changed(['D', 'E'], { change: 'merge' });
    expect(typeof after !== 'string' && compareChains(chain, after).verdict).toBe('equivalent');
  });

  test('whatever is chosen, each change can be made, and none touches the others', () => {
    const change = fc.constantFrom<BulkChange>(
      { change: 'switch', on: false },
      { change: 'ending', to: 'continue' },
      { change: 'move', before: null },
      { change: 'remove' },
    );
    fc.assert(
      fc.property(fc.subarray(['A', 'B', 'C', 'D', 'E']), change, (names, one) => {
        const after = changed(names, one);
        if (typeof after === 'string') throw new Error(after);
        const left = after.entries.map(({ name }) => name);
        expect(left.length).toBe(one.change === 'remove' ? 5 - names.length : 5);
        for (const name of ['A', 'B', 'C', 'D', 'E']) {
          expect(left.includes(name)).toBe(one.change !== 'remove' || !names.includes(name));
        }
      }),
    );
  });
});

test('what is done to several rules is told by the chain that each step finds', () => {
  const four = chainFromSieve(['A', 'B', 'C', 'D to E'].map((name) => `# ${name}\nif true { keep; }\n`).join('')).chain;
  const words = (ids: readonly string[], change: BulkChange) => {
    const found = bulkEdits(four, ids, change);
    return found.ok ? changeWords(four, found.edits) : found.words;
  };
  expect(words(['r1', 'r2', 'r3'], { change: 'move', before: null })).toBe('Move 3 rules to the end');
  expect(words(['r1', 'r2', 'r3'], { change: 'move', before: 'r4' })).toBe('');
  expect(words(['r2', 'r3'], { change: 'move', before: 'r1' })).toBe(
    'Move “B” directly before “A”; Move “C” directly before “A”',
  );
  expect(words(['r1', 'r2', 'r4'], { change: 'remove' })).toBe('Remove 3 rules');
});
