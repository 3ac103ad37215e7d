import { applyEdit, type Edit, moveBefore, removal, rewriting, runsOf } from './edit';
import { accountOf } from './lists';
import type { Chain, ChainEntry, Rule } from './rule';
import { isSame } from './same';

export type Rebased =
  | { readonly ok: true; readonly edits: readonly Edit[]; readonly chain: Chain }
  /** Ids of the rules that stand in the way, and what is to be said of it. */
  | { readonly ok: false; readonly ids: readonly string[]; readonly words: string };

/**
 * Carries edits made for `base` over to a chain that has developed from it: changes to a rule follow that rule,
 * wherever it is now. Edits conflict where both change the same part of a rule differently.
 */
export function rebase(base: Chain, edits: readonly Edit[], onto: Chain): Rebased {
  let [from, to] = [base, onto];
  const made: Edit[] = [];
  for (const edit of edits) {
    const carried = carriedOver(from, edit, to);
    if (!carried.ok) return carried;
    made.push(...carried.edits);
    to = carried.chain;
    const next = applyEdit(from, edit);
    if (!next.ok) return { ok: false, ids: [], words: next.reason };
    from = next.chain;
  }
  return { ok: true, edits: made, chain: to };
}

function carriedOver(base: Chain, edit: Edit, onto: Chain): Rebased {
  const whole = applyEdit(onto, edit);
  // Most edits name a rule and what they expect of it; an index alone means nothing in another chain.
  const namesRules = edit.kind === 'rewrite' ? edit.before.length > 0 : edit.kind !== 'move';
  if (whole.ok && namesRules) return { ok: true, edits: [edit], chain: whole.chain };
  if (edit.kind === 'move') return movedOver(base, edit, onto);
  if (edit.kind === 'rewrite') return rewrittenOver(base, edit, onto);
  if (edit.kind === 'list') return listChangedOver(edit, onto);
  const entry = onto.entries.find(({ id }) => 'id' in edit && id === edit.id);
  if (entry && isDone(entry, edit)) return { ok: true, edits: [], chain: onto };
  return { ok: false, ids: entry ? [entry.id] : [], words: whole.ok ? '' : whole.reason };
}

/** Whether another edit has changed this part of a rule. */
function isDone(entry: ChainEntry, edit: Edit): boolean {
  if (edit.kind === 'switch') return entry.on === edit.on;
  if (entry.kind !== 'rule') return false;
  if (edit.kind === 'ending') return entry.ending === edit.to;
  return edit.kind === 'account' && accountOf(entry) === edit.to;
}

/** Moves to before the original target, or to before what follows it if the target is gone. */
function movedOver(base: Chain, edit: Extract<Edit, { kind: 'move' }>, onto: Chain): Rebased {
  const [id] = edit.ids;
  const moved = applyEdit(base, edit);
  if (!moved.ok || id === undefined || !onto.entries.some((entry) => entry.id === id)) {
    return { ok: false, ids: edit.ids, words: 'the rule to be moved is no longer in the chain' };
  }
  const after = moved.chain.entries.slice(edit.to + edit.ids.length);
  const anchor = after.find((entry) => onto.entries.some((other) => other.id === entry.id));
  const carried = moveBefore(onto, id, anchor?.id ?? null);
  if (!carried) return { ok: true, edits: [], chain: onto };
  const applied = applyEdit(onto, carried);
  return applied.ok
    ? { ok: true, edits: [carried], chain: applied.chain }
    : { ok: false, ids: [id], words: applied.reason };
}

function rewrittenOver(base: Chain, edit: Extract<Edit, { kind: 'rewrite' }>, onto: Chain): Rebased {
  const edits: Edit[] = [];
  let chain = onto;
  const make = (next: Edit): string | null => {
    const applied = applyEdit(chain, next);
    if (!applied.ok) return applied.reason;
    edits.push(next);
    chain = applied.chain;
    return null;
  };
  if (edit.closing.before !== edit.closing.after) {
    const { closing } = edit;
    const refused = make({ kind: 'rewrite', from: 0, before: [], after: [], closing });
    if (refused) return { ok: false, ids: [], words: 'the closing comments were changed meanwhile' };
  }
  const kept = new Set(edit.after.map(({ id }) => id));
  for (const before of edit.before) {
    const there = chain.entries.find(({ id }) => id === before.id);
    if (kept.has(before.id)) continue;
    // Already removed.
    if (!there) continue;
    if (!isSame({ ...there, on: true, link: '' }, { ...before, on: true, link: '' })) {
      return { ok: false, ids: [before.id], words: `“${there.name}”, which is to be removed, was changed meanwhile` };
    }
    const refused = make(removal(chain, there));
    if (refused) return { ok: false, ids: [before.id], words: refused };
  }
  // An added entry follows its original predecessor, else keeps its index.
  let behind = base.entries[edit.from - 1]?.id ?? null;
  for (const after of edit.after) {
    const before = edit.before.find(({ id }) => id === after.id);
    const at = chain.entries.findIndex(({ id }) => id === after.id);
    const there = chain.entries[at];
    if (before && there) {
      const merged = mergedEntry(before, after, there);
      if (typeof merged === 'string') return { ok: false, ids: [after.id], words: merged };
      if (merged !== there) {
        const refused = make(rewriting(at, [there], [merged]));
        if (refused) return { ok: false, ids: [after.id], words: refused };
      }
    } else if (before) {
      return { ok: false, ids: [after.id], words: `“${after.name}” is no longer in the chain` };
    } else if (there && !isSame(there, after)) {
      return { ok: false, ids: [after.id], words: `“${there.name}” is already in the chain` };
    } else if (!there) {
      const refused = make(rewriting(placeBehind(chain, behind, edit.from), [], [after]));
      if (refused) return { ok: false, ids: [after.id], words: refused };
    }
    behind = after.id;
  }
  return { ok: true, edits, chain };
}

/** Linked runs are not split: an entry goes after the whole run. */
function placeBehind(chain: Chain, behind: string | null, otherwise: number): number {
  if (behind === null) return 0;
  let place = 0;
  for (const run of runsOf(chain)) {
    place += run.length;
    if (run.some(({ id }) => id === behind)) return place;
  }
  return Math.min(otherwise, chain.entries.length);
}

/** Applies a change part by part to the present entry, or describes the conflict. */
function mergedEntry(before: ChainEntry, after: ChainEntry, now: ChainEntry): ChainEntry | string {
  if (before.kind !== 'rule' || after.kind !== 'rule' || now.kind !== 'rule') {
    if (isSame(before, now)) return after;
    return isSame(after, now) ? now : `“${now.name}” was changed meanwhile`;
  }
  let merged: Rule = now;
  for (const part of PARTS) {
    const [old, made, there] = [before, after, now].map((rule) => rule[part] ?? []);
    if (isSame(old, made) || isSame(made, there)) continue;
    const value = isSame(old, there) ? made : mergedPart(part, before, after, now);
    if (value === null) return `${PART_WORDS[part]} of “${now.name}” changed in another way`;
    merged = { ...merged, [part]: value };
  }
  return merged;
}

const PARTS = ['name', 'note', 'on', 'tests', 'unless', 'actions', 'ending', 'link', 'tags'] as const;
const PART_WORDS: Readonly<Record<(typeof PARTS)[number], string>> = {
  name: 'the name',
  note: 'the note',
  on: 'whether the rule is on',
  tests: 'the tests',
  unless: 'the exceptions',
  actions: 'the actions',
  ending: 'the ending',
  link: 'the link',
  tags: 'the tags',
};

/** Exceptions and tags are unordered: additions and removals are applied to the present ones. */
function mergedPart(part: (typeof PARTS)[number], before: Rule, after: Rule, now: Rule): unknown {
  if (part !== 'unless' && part !== 'tags') return null;
  return mergedList<unknown>(before[part] ?? [], after[part] ?? [], now[part] ?? []);
}

function mergedList<T>(before: readonly T[], after: readonly T[], now: readonly T[]): T[] {
  const isIn = (list: readonly T[], one: T) => list.some((other) => isSame(other, one));
  const left = now.filter((one) => isIn(after, one) || !isIn(before, one));
  return [...left, ...after.filter((one) => !isIn(before, one) && !isIn(left, one))];
}

/** Added and removed keys are applied to the present list. */
function listChangedOver({ id, from, to }: Extract<Edit, { kind: 'list' }>, onto: Chain): Rebased {
  const there = onto.lists?.find((list) => list.id === id) ?? null;
  if (isSame(there, to)) return { ok: true, edits: [], chain: onto };
  if (!there || !from || !to) return { ok: false, ids: [], words: 'the list was changed meanwhile' };
  const name = from.name === to.name ? there.name : to.name;
  const edit: Edit = {
    kind: 'list',
    id,
    from: there,
    to: { id, name, keys: mergedList(from.keys, to.keys, there.keys) },
  };
  const applied = applyEdit(onto, edit);
  return applied.ok ? { ok: true, edits: [edit], chain: applied.chain } : { ok: false, ids: [], words: applied.reason };
}
