import { and, asc, desc, eq } from 'drizzle-orm';
import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { maybeSingleAddress } from '../../core/mail/address';
import { applyEdits, type Edit, invertEdit } from '../../core/rules/edit';
import { changeWords } from '../../core/rules/edit-words';
import { unfitFor } from '../../core/rules/profile';
import { rebase } from '../../core/rules/rebase';
import type { Chain } from '../../core/rules/rule';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { check } from '../../core/sieve/check';
import { wordsOf } from '../../core/sieve/diagnostics';
import { parse } from '../../core/sieve/parse';
import { countFault, entanglementFault, limitFault } from '../../files/chain-shape';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { refuseOverweight } from '../audits/size-limit';
import { maybeFlow } from '../chain/simulation';
import { inTransaction, type Store } from '../database/open';
import { changes } from '../database/schema';
import type { ChangeOrigin } from '../plan/kept';
import { brokenBy } from './expectations';

/** Previews the effect of edits on stored mail. */
export interface Preview {
  readonly words: string;
  /** Null while the chain is not simulated. */
  readonly changed: Bitmap | null;
  readonly after: Chain;
  /** The flows before and after, as far as known. */
  readonly flows: readonly [Flow | null, Flow | null];
}

/** Throws a refusal if the edits do not apply to the draft. */
export function previewEdits(store: Store, audit: Audit, edits: readonly Edit[]): Preview {
  const chain = soundChainAfter(audit, edits);
  const [before, after] = [maybeFlow(store, audit, audit.draft), maybeFlow(store, audit, chain)];
  const words = changeWords(audit.draft, edits);
  const changed = before && after ? after.fates.differsFrom(before.fates) : null;
  return { words, changed, after: chain, flows: [before, after] };
}

/** The draft with edits applied; throws a refusal if they do not apply. */
export function chainAfter(audit: Audit, edits: readonly Edit[]): Chain {
  const applied = applyEdits(audit.draft, edits);
  if (!applied.ok)
    throw new Refusal(`This change no longer fits the chain: ${applied.reason}. Nothing was changed.`, 409);
  return applied.chain;
}

/** The draft with edits applied; throws a refusal too if the result has no valid script. */
export function soundChainAfter(audit: Audit, edits: readonly Edit[]): Chain {
  const chain = chainAfter(audit, edits);
  const before = new Set(audit.draft.entries);
  const changed = { entries: chain.entries.filter((entry) => !before.has(entry)), closing: '' };
  const rewrites = edits.some(({ kind }) => kind === 'rewrite');
  const [why] = chain.profile ? unfitFor(chain) : [];
  if (why !== undefined)
    throw new Refusal(`The program that these rules are in cannot run them so: ${why} Nothing was changed.`, 422);
  const limit = countFault(chain) ?? limitFault(changed) ?? (rewrites ? entanglementFault(chain) : null);
  if (limit !== null) throw new Refusal(`This change exceeds a limit: ${limit}. Nothing was changed.`, 413);
  for (const edit of edits) {
    // Entries that an edit does not touch were valid before.
    if (edit.kind === 'rewrite') refuseUnsound({ entries: edit.after, closing: edit.closing.after });
    if (edit.kind === 'account' && edit.to !== null && !maybeSingleAddress(edit.to)) {
      throw new Refusal(`“${edit.to}” is not a single complete address.`, 422);
    }
  }
  return chain;
}

/** HTTP input may contain anything; a chain is saved only if its script can be read back. */
function refuseUnsound(chain: Chain): void {
  const faults = faultsOf(chain);
  if (faults.length === 0) return;
  throw new Refusal(`A server would reject the script of this chain: ${faults[0]}. Nothing was changed.`, 422);
}

/** The diagnostics of the script of a chain. */
export function faultsOf(chain: Chain): string[] {
  try {
    const { text } = sieveFromChain(chain);
    const { script, diagnostics } = parse(text);
    return [...diagnostics, ...check(script)].map(wordsOf);
  } catch {
    return ['it contains a test or an action that Sieve does not have'];
  }
}

/**
 * Makes a change and discards the redo history. Refuses a change that breaks an expectation. `words` describes it if
 * the edits do not.
 */
export const makeChange = (
  store: Store,
  auditId: string,
  edits: readonly Edit[],
  why: string,
  words: string | null = null,
): void => makeChanges(store, auditId, [{ edits, why, words }]);

export interface NewChange {
  readonly edits: readonly Edit[];
  readonly why: string;
  readonly words: string | null;
  readonly origin?: ChangeOrigin;
  /** The id of the earlier change that it undoes. */
  readonly undoes?: number | undefined;
  /** Messages whose fate it changes, if known; otherwise those of all changes made with it. */
  readonly changed?: number;
}

/** Makes several changes, each of which can be undone alone, or none of them. */
export function makeChanges(store: Store, auditId: string, made: readonly NewChange[]): void {
  const all = made.flatMap(({ edits }) => edits);
  if (all.length === 0) throw new Refusal('There is nothing to change.');
  inTransaction(store, (tx) => {
    const audit = getAudit(tx, auditId);
    const preview = previewEdits(tx, audit, all);
    const [broken] = brokenBy(tx, audit, preview.after, preview.flows);
    if (broken)
      throw new Refusal(
        `This change is blocked: it breaks the expectation “${broken.name}”. Change or delete the expectation first.`,
        409,
      );
    tx.delete(changes)
      .where(and(eq(changes.auditId, auditId), eq(changes.undone, true)))
      .run();
    for (const { edits, why, words, origin = null, undoes = null, changed } of made) {
      const createdAt = Date.now();
      const changedMessages = changed ?? preview.changed?.count() ?? 0;
      tx.insert(changes)
        .values({
          auditId,
          edits,
          words: words ?? preview.words,
          why,
          origin,
          undoes,
          changedMessages,
          undone: false,
          createdAt,
        })
        .run();
    }
    refuseOverweight(tx, auditId);
  });
}

/** Undoes the newest change; false if there is none. */
export function undo(store: Store, auditId: string): boolean {
  const newest = store
    .select()
    .from(changes)
    .where(and(eq(changes.auditId, auditId), eq(changes.undone, false)))
    .orderBy(desc(changes.id))
    .get();
  if (!newest) return false;
  store.update(changes).set({ undone: true }).where(eq(changes.id, newest.id)).run();
  return true;
}

/** Redoes the change undone last; false if there is none. */
export function redo(store: Store, auditId: string): boolean {
  const next = store
    .select()
    .from(changes)
    .where(and(eq(changes.auditId, auditId), eq(changes.undone, true)))
    .orderBy(asc(changes.id))
    .get();
  if (!next) return false;
  store.update(changes).set({ undone: false }).where(eq(changes.id, next.id)).run();
  return true;
}

/** All changes, oldest first; undone ones last. */
export function history(store: Store, auditId: string) {
  return store.select().from(changes).where(eq(changes.auditId, auditId)).orderBy(asc(changes.id)).all();
}

/** The changes that no other has undone, oldest first. */
export function standingChanges(store: Store, auditId: string) {
  const rows = history(store, auditId).filter(({ undone }) => !undone);
  const undone = new Set(rows.map(({ undoes }) => undoes));
  return rows.filter(({ id }) => !undone.has(id));
}

/** The chain after each change, oldest first, starting with the imported chain. */
export function stepsOf(store: Store, audit: Audit): { readonly id: number | null; readonly chain: Chain }[] {
  const steps: { readonly id: number | null; readonly chain: Chain }[] = [{ id: null, chain: audit.baseline }];
  for (const { id, edits, undone } of history(store, audit.id)) {
    if (undone) continue;
    const applied = applyEdits(steps.at(-1)?.chain ?? audit.baseline, edits);
    if (!applied.ok) throw new Error(`the changes of audit ${audit.id} no longer apply: ${applied.reason}`);
    steps.push({ id, chain: applied.chain });
  }
  return steps;
}

/**
 * The edits that undo one change and keep later ones. Throws a refusal naming the rule if a later change builds on it.
 */
export function takingBack(
  store: Store,
  audit: Audit,
  change: number,
): { readonly edits: Edit[]; readonly words: string } {
  const row = history(store, audit.id).find(({ id, undone }) => id === change && !undone);
  const step = stepsOf(store, audit).find(({ id }) => id === change);
  if (!row || !step) throw new Refusal('There is no such change.', 404);
  const inverse = row.edits.toReversed().map(invertEdit);
  const found = rebase(step.chain, inverse, audit.draft);
  if (!found.ok) {
    throw new Refusal(
      `This change cannot be undone alone because a later change builds on it: ${found.words}. Undo the later change first.`,
      409,
    );
  }
  return { edits: [...found.edits], words: `Undo: ${row.words}` };
}
