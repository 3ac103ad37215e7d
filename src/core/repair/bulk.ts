import { alternatives } from '../audit/kinds/mergeable';
import { applyEdit, applyEdits, type Edit, moveBefore, removal, rewriting } from '../rules/edit';
import type { Chain, ChainEntry, Ending, Rule } from '../rules/rule';
import { isSame } from '../rules/same';

/** A change to several rules at once. */
export type BulkChange =
  | { readonly change: 'switch'; readonly on: boolean }
  | { readonly change: 'ending'; readonly to: Ending }
  /** To directly before an entry, in the order in which they stand; null for the end. */
  | { readonly change: 'move'; readonly before: string | null }
  | { readonly change: 'remove' }
  /** Into one rule in the place of the first. */
  | { readonly change: 'merge' }
  /** Puts a tag on them, or takes it off; script blocks have none. */
  | { readonly change: 'tag'; readonly tag: string; readonly on: boolean };

export type BulkEdits =
  | { readonly ok: true; readonly edits: readonly Edit[] }
  | { readonly ok: false; readonly words: string };

/** The edits that change several entries, given by id; entries that already have the setting stay unchanged. */
export function bulkEdits(chain: Chain, ids: readonly string[], change: BulkChange): BulkEdits {
  const chosen = chain.entries.filter(({ id }) => ids.includes(id));
  switch (change.change) {
    case 'switch': {
      const others = chosen.filter(({ on }) => on !== change.on);
      return { ok: true, edits: others.map(({ id }) => ({ kind: 'switch', id, on: change.on })) };
    }
    case 'ending': {
      const others = chosen.flatMap((entry) => (entry.kind === 'rule' && entry.ending !== change.to ? [entry] : []));
      return {
        ok: true,
        edits: others.map(({ id, ending }) => ({ kind: 'ending', id, from: ending, to: change.to })),
      };
    }
    case 'move':
      return moves(chain, chosen, change.before);
    case 'remove':
      return { ok: true, edits: removals(chain, chosen) };
    case 'merge':
      return merging(chain, chosen);
    case 'tag':
      return tagging(chain, chosen, change);
    default:
      change satisfies never;
      throw new Error('unknown change');
  }
}

/** Moves each before the target, so that they keep their order; a rule moves with its linked run. */
function moves(chain: Chain, chosen: readonly ChainEntry[], before: string | null): BulkEdits {
  if (chosen.some(({ id }) => id === before)) {
    return { ok: false, words: 'The selected rules cannot be moved next to one of themselves.' };
  }
  const edits: Edit[] = [];
  let current = chain;
  for (const { id } of chosen) {
    const edit = moveBefore(current, id, before);
    // Already there, or moved with its run.
    if (!edit) continue;
    const applied = applyEdit(current, edit);
    if (!applied.ok) return { ok: false, words: applied.reason };
    edits.push(edit);
    current = applied.chain;
  }
  const asBefore = current.entries.every(({ id }, place) => id === chain.entries[place]?.id);
  return { ok: true, edits: asBefore ? [] : edits };
}

/** From the end, so that earlier indexes stay valid. */
function removals(chain: Chain, chosen: readonly ChainEntry[]): Edit[] {
  const edits: Edit[] = [];
  let current = chain;
  for (const entry of chosen.toReversed()) {
    const edit = removal(current, entry);
    const applied = applyEdit(current, edit);
    if (!applied.ok) throw new Error(applied.reason);
    edits.push(edit);
    current = applied.chain;
  }
  return edits;
}

function tagging(
  chain: Chain,
  chosen: readonly ChainEntry[],
  { tag, on }: Extract<BulkChange, { change: 'tag' }>,
): BulkEdits {
  const wanted = tag.trim();
  if (wanted === '') return { ok: false, words: 'The tag has no name.' };
  const edits = chosen.flatMap((entry): Edit[] => {
    if (entry.kind !== 'rule' || (entry.tags ?? []).includes(wanted) === on) return [];
    const tags = (entry.tags ?? []).filter((one) => one !== wanted);
    return [rewriting(chain.entries.indexOf(entry), [entry], [{ ...entry, tags: on ? [...tags, wanted] : tags }])];
  });
  return { ok: true, edits };
}

function merging(chain: Chain, chosen: readonly ChainEntry[]): BulkEdits {
  const rules = chosen.filter((entry): entry is Rule => entry.kind === 'rule');
  const [first, ...others] = rules;
  if (!first || others.length === 0 || rules.length < chosen.length) {
    return { ok: false, words: 'Select at least two rules; script blocks cannot be merged.' };
  }
  const differing = others.find(({ actions, ending }) => !isSame([actions, ending], [first.actions, first.ending]));
  if (differing) return { ok: false, words: `“${differing.name}” and “${first.name}” have different actions.` };
  const excepting = others.find(({ unless }) => !isSame(unless, first.unless));
  if (excepting) return { ok: false, words: `“${excepting.name}” and “${first.name}” have different exceptions.` };
  const isLinked = (rule: Rule) => {
    const next = chain.entries[chain.entries.indexOf(rule) + 1];
    return rule.link === 'otherwise' || (next?.kind === 'rule' && next.link === 'otherwise');
  };
  const linked = rules.find(isLinked);
  if (linked) return { ok: false, words: `“${linked.name}” belongs to a run of linked rules.` };
  const unlike = others.find(({ on }) => on !== first.on);
  if (unlike) return { ok: false, words: 'Some of the selected rules are on and some are off.' };
  let { tests } = first;
  for (const other of others) {
    const children = alternatives(tests, other.tests);
    const [only, another] = children;
    tests = only && !another ? only : { kind: 'any', children };
  }
  const merged = rewriting(chain.entries.indexOf(first), [first], [{ ...first, tests }]);
  const after = applyEdits(chain, [merged]);
  if (!after.ok) return { ok: false, words: after.reason };
  const rest = after.chain.entries.filter(({ id }) => others.some((other) => other.id === id));
  return { ok: true, edits: [merged, ...removals(after.chain, rest)] };
}
