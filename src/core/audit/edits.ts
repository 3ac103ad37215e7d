import { type Edit, removal, rewriting } from '../rules/edit';
import { changeWords } from '../rules/edit-words';
import type { Chain, ChainEntry, Rule } from '../rules/rule';
import type { Repair } from './finding';

/** Edits as a repair, in the words of what they do. */
export function repair(chain: Chain, ...edits: readonly (Edit | null)[]): Repair[] {
  const made = edits.filter((edit) => edit !== null);
  return made.length === 0 ? [] : [{ title: changeWords(chain, made), edits: made }];
}

export const switchOff = (id: string): Edit => ({ kind: 'switch', id, on: false });

/** The edit that puts something else in the place of an entry; nothing where `after` is empty. */
export function replace(chain: Chain, entry: ChainEntry, after: readonly ChainEntry[]): Edit {
  const from = chain.entries.findIndex(({ id }) => id === entry.id);
  return rewriting(from, [entry], after);
}

/** Two ways to end what a rule does: it stays as it is, switched off, or is taken out. */
export function withoutRule(chain: Chain, entry: ChainEntry): Repair[] {
  return [...repair(chain, switchOff(entry.id)), ...repair(chain, removal(chain, entry))];
}

/** A rewritten rule with words of its own for what is done to it. */
export function rewrite(chain: Chain, rule: Rule, after: Rule, title: string): Repair {
  return { title, edits: [replace(chain, rule, [after])] };
}

export const otherEnding = ({ id, ending }: Rule): Edit => {
  return { kind: 'ending', id, from: ending, to: ending === 'stop' ? 'continue' : 'stop' };
};
