import type { Chain } from './rule';

/**
 * Joins two chains: the rules of the second run after those of the first. They get new ids, with numbers above all ids of the
 * first and above `used`.
 */
export function joinChains(before: Chain, added: Chain, used = 0): Chain {
  const base = before.entries.reduce((most, { id }) => Math.max(most, idNumber(id)), used);
  const renumbered = added.entries.map((entry, index) => ({ ...entry, id: `r${base + index + 1}` }));
  const closing = [before.closing, added.closing].filter((text) => text !== '').join('\n');
  return { entries: [...before.entries, ...renumbered], closing };
}

/** The number of an id as they are given here; 0 for others. */
const idNumber = (id: string): number => Number(/^r(\d{1,9})$/.exec(id)?.[1] ?? 0);
