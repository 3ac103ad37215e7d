import { and, asc, desc, eq } from 'drizzle-orm';
import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { maybeSingleAddress } from '../../core/mail/address';
import { applyEdits, type Edit, invertEdit } from '../../core/rules/edit';
import { changeWords } from '../../core/rules/edit-words';
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
import { brokenBy } from './expectations';

/** The effect of edits on the stored mail, before they are made. */
export interface Preview {
  readonly words: string;
  /** Null while the chain is not simulated. */
  readonly changed: Bitmap | null;
  readonly after: Chain;
  /** The flows as things are and as they would be, as far as they are known. */
  readonly flows: readonly [Flow | null, Flow | null];
}

/** Throws a refusal where the edits do not fit the draft as it stands. */
export function previewEdits(store: Store, audit: Audit, edits: readonly Edit[]): Preview {
  const chain = soundChainAfter(audit, edits);
  const [before, after] = [maybeFlow(store, audit, audit.draft), maybeFlow(store, audit, chain)];
  const words = changeWords(audit.draft, edits);
  const changed = before && after ? after.fates.differsFrom(before.fates) : null;
  return { words, changed, after: chain, flows: [before, after] };
}

/** The draft with edits made to it; throws a refusal where they do not fit it as it stands. */
export function chainAfter(audit: Audit, edits: readonly Edit[]): Chain {
  const applied = applyEdits(audit.draft, edits);
  if (!applied.ok) throw new Refusal(`This change no longer fits the chain: ${applied.reason}.`, 409);
  return applied.chain;
}

/** The same; throws a refusal too where what they bring could not be written as a script. */
export function soundChainAfter(audit: Audit, edits: readonly Edit[]): Chain {
  const chain = chainAfter(audit, edits);
  const before = new Set(audit.draft.entries);
  const changed = { entries: chain.entries.filter((entry) => !before.has(entry)), closing: '' };
  const rewrites = edits.some(({ kind }) => kind === 'rewrite');
  const limit = countFault(chain) ?? limitFault(changed) ?? (rewrites ? entanglementFault(chain) : null);
  if (limit !== null) throw new Refusal(`This change is beyond a limit: ${limit}.`, 413);
  for (const edit of edits) {
    // What an edit does not touch was sound before.
    if (edit.kind === 'rewrite') refuseUnsound({ entries: edit.after, closing: edit.closing.after });
    if (edit.kind === 'account' && edit.to !== null && !maybeSingleAddress(edit.to)) {
      throw new Refusal(`“${edit.to}” is not one complete address.`, 422);
    }
  }
  return chain;
}

/** What comes over the wire may say anything; a chain is only kept when the script it stands for can be read. */
function refuseUnsound(chain: Chain): void {
  const faults = faultsOf(chain);
  if (faults.length === 0) return;
  throw new Refusal(`The script of this chain would be refused: ${faults[0]}.`, 422);
}

/** What a server would say of the script that a chain stands for. */
export function faultsOf(chain: Chain): string[] {
  try {
    const { text } = sieveFromChain(chain);
    const { script, diagnostics } = parse(text);
    return [...diagnostics, ...check(script)].map(wordsOf);
  } catch {
    return ['a test or an action in it is none of Sieve'];
  }
}

/**
 * Makes a change; what had been undone before it can no longer be redone. One that breaks an expectation is refused. `words`
 * are what is said of it where the edits do not say it themselves.
 */
export function makeChange(
  store: Store,
  auditId: string,
  edits: readonly Edit[],
  why: string,
  words: string | null = null,
): void {
  if (edits.length === 0) throw new Refusal('There is nothing to change.');
  inTransaction(store, (tx) => {
    const audit = getAudit(tx, auditId);
    const preview = previewEdits(tx, audit, edits);
    const [broken] = brokenBy(tx, audit, preview.after, preview.flows);
    if (broken) throw new Refusal(`This change is stopped: it breaks the expectation “${broken.name}”.`, 409);
    tx.delete(changes)
      .where(and(eq(changes.auditId, auditId), eq(changes.undone, true)))
      .run();
    tx.insert(changes)
      .values({
        auditId,
        edits,
        words: words ?? preview.words,
        why,
        changedMessages: preview.changed?.count() ?? 0,
        undone: false,
        createdAt: Date.now(),
      })
      .run();
    refuseOverweight(tx, auditId);
  });
}

/** Takes the newest change back; false where there is none. */
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

/** Makes the change that was undone last again; false where there is none. */
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

/** All changes, the oldest first, the undone ones at the end. */
export function history(store: Store, auditId: string) {
  return store.select().from(changes).where(eq(changes.auditId, auditId)).orderBy(asc(changes.id)).all();
}

/** The chain after each change that stands, the oldest first; it begins with what was brought in. */
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
 * The edits that take one change back and leave those after it as they are. Throws a refusal where a later change builds on
 * it, and names the rule.
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
    throw new Refusal(`It cannot be taken back by itself, since a later change builds on it: ${found.words}.`, 409);
  }
  return { edits: [...found.edits], words: `Take back: ${row.words}` };
}
