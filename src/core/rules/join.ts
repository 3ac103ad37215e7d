import type { Chain } from './rule';

/** Scripts run one after the other, in the order in which they were brought in; ids are given anew to those added. */
export function joinChains(before: Chain, added: Chain): Chain {
  const base = before.entries.length;
  const renumbered = added.entries.map((entry, index) => ({ ...entry, id: `r${base + index + 1}` }));
  const closing = [before.closing, added.closing].filter((text) => text !== '').join('\n');
  return { entries: [...before.entries, ...renumbered], closing };
}
