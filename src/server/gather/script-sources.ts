import { and, asc, eq } from 'drizzle-orm';
import type { Edit } from '../../core/rules/edit';
import type { Chain, ChainEntry } from '../../core/rules/rule';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { audits, scripts } from '../database/schema';

/** An imported script or sheet, and its entries in the draft. */
export interface ScriptSource {
  readonly id: string;
  readonly fileName: string;
  readonly rules: number;
  readonly blocks: number;
  /** Its faults, each with the draft entry concerned; null for none. */
  readonly faults: readonly { readonly words: string; readonly entry: string | null }[];
  /** The ids of its entries that are still in the draft, in order. */
  readonly entries: readonly string[];
}

/** All scripts in the order of their entries in the draft; those without entries last. */
export function listScripts(store: Store, audit: Audit): ScriptSource[] {
  const places = new Map(audit.draft.entries.map(({ id }, place) => [id, place]));
  const found = store
    .select()
    .from(scripts)
    .where(eq(scripts.auditId, audit.id))
    .orderBy(asc(scripts.createdAt))
    .all()
    .map(({ id, fileName, rules, blocks, faults, faultEntries, entries }) => {
      const there = entries.filter((entry) => places.has(entry));
      return {
        id,
        fileName,
        rules,
        blocks,
        faults: faults.map((words, at) => {
          const entry = faultEntries[at] ?? null;
          return { words, entry: entry !== null && places.has(entry) ? entry : null };
        }),
        entries: there.sort((a, b) => (places.get(a) ?? 0) - (places.get(b) ?? 0)),
      };
    });
  const placeOf = ({ entries }: ScriptSource) => places.get(entries[0] ?? '') ?? Number.POSITIVE_INFINITY;
  return found.sort((a, b) => (placeOf(a) === placeOf(b) ? 0 : placeOf(a) - placeOf(b)));
}

/** Operations on the rules of a script: remove them, or move them before or after the neighbouring script. */
export type ScriptStep = 'remove' | 'up' | 'down';

/** The edits of an operation, and their description. Nothing is changed. */
export function scriptStep(
  store: Store,
  auditId: string,
  scriptId: string,
  step: ScriptStep,
): { readonly edits: readonly Edit[]; readonly words: string } {
  const audit = getAudit(store, auditId);
  const all = listScripts(store, audit).filter(({ entries }) => entries.length > 0);
  const at = all.findIndex(({ id }) => id === scriptId);
  const script = all[at];
  if (!script) throw new Refusal('No rule of this file is in the chain.', 404);
  const { draft } = audit;
  const own = new Set(script.entries);
  if (step === 'remove') {
    return {
      edits: rewritten(
        draft,
        draft.entries.filter(({ id }) => !own.has(id)),
      ),
      words: `Remove the rules of “${script.fileName}”`,
    };
  }
  const other = all[step === 'up' ? at - 1 : at + 1];
  if (!other) throw new Refusal(`“${script.fileName}” is already the ${step === 'up' ? 'first' : 'last'} file.`, 422);
  const moving = draft.entries.filter(({ id }) => own.has(id));
  const rest = draft.entries.filter(({ id }) => !own.has(id));
  const beside = new Set(other.entries);
  const place =
    step === 'up' ? rest.findIndex(({ id }) => beside.has(id)) : rest.findLastIndex(({ id }) => beside.has(id)) + 1;
  const entries = [...rest.slice(0, place), ...moving, ...rest.slice(place)];
  const side = step === 'up' ? 'before' : 'behind';
  return { edits: rewritten(draft, entries), words: `Move “${script.fileName}” ${side} “${other.fileName}”` };
}

/** The edits that replace the rules of a script by those of another reading of its file. */
export function scriptReplaced(audit: Audit, script: ScriptSource, made: readonly ChainEntry[]): readonly Edit[] {
  const own = new Set(script.entries);
  const { entries } = audit.draft;
  const first = entries.findIndex(({ id }) => own.has(id));
  const place = first < 0 ? entries.length : first;
  const kept = (part: readonly ChainEntry[]) => part.filter(({ id }) => !own.has(id));
  return rewritten(audit.draft, [...kept(entries.slice(0, place)), ...made, ...kept(entries.slice(place))]);
}

/** One edit that turns a chain into these entries; none if it already has them. */
function rewritten({ entries: before, closing }: Chain, after: readonly ChainEntry[]): Edit[] {
  let from = 0;
  while (from < before.length && before[from] === after[from]) from++;
  let [end, otherEnd] = [before.length, after.length];
  while (end > from && otherEnd > from && before[end - 1] === after[otherEnd - 1]) {
    end--;
    otherEnd--;
  }
  if (end === from && otherEnd === from) return [];
  const kept = { before: closing, after: closing };
  return [
    { kind: 'rewrite', from, before: before.slice(from, end), after: after.slice(from, otherEnd), closing: kept },
  ];
}

/** Attributes entries to the scripts of audits stored by an earlier version, which numbered ids consecutively. */
export function nameEntries(store: Store): void {
  const unnamed = store.select().from(scripts).where(eq(scripts.entries, [])).orderBy(asc(scripts.createdAt)).all();
  const ids = [...new Set(unnamed.map(({ auditId }) => auditId))];
  for (const auditId of ids) {
    const row = store.select({ chain: audits.chain }).from(audits).where(eq(audits.id, auditId)).get();
    const chain = row?.chain ?? { entries: [], closing: '' };
    let from = 0;
    for (const script of unnamed.filter((one) => one.auditId === auditId)) {
      const entries = chain.entries.slice(from, from + script.rules + script.blocks).map(({ id }) => id);
      from += entries.length;
      store
        .update(scripts)
        .set({ entries })
        .where(and(eq(scripts.auditId, auditId), eq(scripts.id, script.id)))
        .run();
    }
  }
}
