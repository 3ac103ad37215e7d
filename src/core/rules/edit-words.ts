import { applyEdit, type Edit } from './edit';
import type { Chain, ChainEntry } from './rule';
import { isSame } from './same';

/** Describes edits that are made together; `chain` is the one they were made for. */
export function changeWords(chain: Chain, edits: readonly Edit[]): string {
  const [first] = edits;
  if (
    first?.kind === 'account' &&
    edits.length > 1 &&
    edits.every((edit) => edit.kind === first.kind && edit.to === first.to)
  ) {
    const whom = first.to === null ? 'to mail to any address' : `only to mail to ${first.to}`;
    return `Apply ${edits.length} rules ${whom}`;
  }
  const words: string[] = [];
  let current = chain;
  edits.forEach((edit, at) => {
    words.push(editWords(current, edit));
    const applied = at < edits.length - 1 ? applyEdit(current, edit) : null;
    if (applied?.ok) current = applied.chain;
  });
  return togetherWords(edits, words) ?? words.join('; ');
}

/** More edits than this are summed up, if they are of one kind. */
const FEW = 2;

function togetherWords(edits: readonly Edit[], words: readonly string[]): string | null {
  const [first] = edits;
  const rules = `${edits.length} rules`;
  if (!first || edits.length <= FEW || !edits.every(({ kind }) => kind === first.kind)) return null;
  switch (first.kind) {
    case 'switch':
      return edits.every((edit) => edit.kind === 'switch' && edit.on === first.on)
        ? `Switch ${rules} ${first.on ? 'on' : 'off'}`
        : null;
    case 'ending':
      if (!edits.every((edit) => edit.kind === 'ending' && edit.to === first.to)) return null;
      return first.to === 'stop' ? `Let ${rules} stop` : `Let ${rules} continue`;
    case 'move': {
      // The last one moves directly before the target of all.
      const last = words.at(-1) ?? '';
      return `Move ${rules}${last.slice(last.lastIndexOf(last.endsWith(' to the end') ? ' to the end' : ' directly'))}`;
    }
    case 'rewrite':
      if (edits.every((edit) => isSame(addedTags(edit), addedTags(first)) && addedTags(edit).length > 0)) {
        return `Tag ${rules} with ${few(addedTags(first))}`;
      }
      return edits.every((edit) => edit.kind === 'rewrite' && edit.after.length === edit.before.length - 1)
        ? `Remove ${rules}`
        : null;
    default:
      return null;
  }
}

/** Describes one edit; `chain` is the one it was made for. */
export function editWords(chain: Chain, edit: Edit): string {
  const name = (id: string | undefined) => `“${chain.entries.find((entry) => entry.id === id)?.name ?? 'a rule'}”`;
  switch (edit.kind) {
    case 'move': {
      const rest = chain.entries.filter((entry) => !edit.ids.includes(entry.id));
      const next = rest[edit.to];
      const what = name(edit.ids[0]) + (edit.ids.length > 1 ? ` and ${edit.ids.length - 1} linked with it` : '');
      return next ? `Move ${what} directly before ${name(next.id)}` : `Move ${what} to the end`;
    }
    case 'switch':
      return `Switch ${name(edit.id)} ${edit.on ? 'on' : 'off'}`;
    case 'ending':
      return edit.to === 'stop' ? `Let ${name(edit.id)} stop` : `Let ${name(edit.id)} continue`;
    case 'account':
      return edit.to === null
        ? `Apply ${name(edit.id)} to mail to any address`
        : `Apply ${name(edit.id)} only to mail to ${edit.to}`;
    case 'list':
      return listWords(edit);
    case 'profile':
      return edit.to ? 'Run the rules as another program does' : 'Run the rules as Sieve does';
    case 'rewrite':
      return rewriteWords(edit);
    default:
      edit satisfies never;
      throw new Error('unknown edit');
  }
}

function listWords({ from, to }: Extract<Edit, { kind: 'list' }>): string {
  if (!from) return `Create the list “${to?.name ?? ''}”`;
  if (!to) return `Delete the list “${from.name}”`;
  const [before, after] = [new Set(from.keys), new Set(to.keys)];
  const added = to.keys.filter((key) => !before.has(key));
  const gone = from.keys.filter((key) => !after.has(key));
  const said = [
    ...(from.name === to.name ? [] : [`rename it to “${to.name}”`]),
    ...(added.length > 0 ? [`add ${few(added)}`] : []),
    ...(gone.length > 0 ? [`remove ${few(gone)}`] : []),
  ];
  return `In the list “${from.name}”: ${said.join(', ') || 'change the order'}`;
}

const few = (keys: readonly string[]): string =>
  keys.length <= 2 ? keys.map((key) => `“${key}”`).join(' and ') : `“${keys[0]}” and ${keys.length - 1} more`;

function rewriteWords(edit: Extract<Edit, { kind: 'rewrite' }>): string {
  const { before, after } = edit;
  const [old, made] = [listed(before), listed(after)];
  const tagged = tagWords(edit);
  if (tagged !== null) return tagged;
  if (before.length === 0) return after.length === 0 ? 'Rewrite the closing comments' : `Add ${made}`;
  if (after.length === 0) return `Remove ${old}`;
  return old === made ? `Rewrite ${old}` : `Rewrite ${old} as ${made}`;
}

/** For an edit that changes only the tags of one rule. */
function tagWords(edit: Extract<Edit, { kind: 'rewrite' }>): string | null {
  const [made] = edit.after;
  if (!made || !changesOnlyTags(edit)) return null;
  const added = addedTags(edit);
  return added.length > 0 ? `Tag “${made.name}” with ${few(added)}` : `Remove tags from “${made.name}”`;
}

function changesOnlyTags({ before, after }: Extract<Edit, { kind: 'rewrite' }>): boolean {
  const [old, made] = [before[0], after[0]];
  if (before.length !== 1 || after.length !== 1 || old?.kind !== 'rule' || made?.kind !== 'rule') return false;
  return !isSame(old.tags ?? [], made.tags ?? []) && isSame({ ...old, tags: [] }, { ...made, tags: [] });
}

/** Tags that an edit adds, if it does nothing else. */
function addedTags(edit: Edit): readonly string[] {
  if (edit.kind !== 'rewrite' || !changesOnlyTags(edit)) return [];
  const [old, made] = [edit.before[0], edit.after[0]].map((entry) => (entry?.kind === 'rule' && entry.tags) || []);
  return (made ?? []).filter((tag) => !old?.includes(tag));
}

function listed(entries: readonly ChainEntry[]): string {
  const [first] = entries;
  return entries.length === 1 && first ? `“${first.name}”` : `${entries.length} rules`;
}
