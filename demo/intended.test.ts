import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { ChainEntry } from '../src/core/rules/rule';
import { longestAscending } from '../src/core/text/ascending';

const read = (name: string) => readFileSync(new URL(name, import.meta.url), 'utf8');
const chainOf = (name: string) => {
  const { chain, diagnostics } = chainFromSieve(read(name));
  expect(diagnostics).toEqual([]);
  return chain;
};

describe('the chain that the coordinator means', () => {
  test('the planted chain differs from it by the listed faults, and in nothing else', () => {
    const { faults } = JSON.parse(read('faults.json')) as { faults: { rules: string[]; why: string }[] };
    const listed = new Set(faults.flatMap(({ rules }) => rules));
    const [intended, planted] = [chainOf('intended.sieve'), chainOf('rules.sieve')];
    const content = (entry: ChainEntry) => JSON.stringify({ ...entry, id: '', note: '' });
    const there = new Map(planted.entries.map((entry, place) => [entry.name, { entry, place }]));
    const unmoved = longestAscending(intended.entries.map(({ name }) => there.get(name)?.place ?? -1));
    const differing = new Set(
      intended.entries.flatMap((entry, at) => {
        const other = there.get(entry.name);
        return other && content(other.entry) === content(entry) && unmoved.has(at) ? [] : [entry.name];
      }),
    );
    const meant = new Set(intended.entries.map(({ name }) => name));
    for (const { name } of planted.entries) if (!meant.has(name)) differing.add(name);
    expect([...listed].sort()).toEqual([...differing].sort());
  });
});
