import type { Edit } from '../../core/rules/edit';
import { rebase } from '../../core/rules/rebase';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { makeChanges, type NewChange, standingChanges, takingBack } from '../changes/changes';
import { dropExpectation } from '../changes/expectations';
import { inTransaction, type Store } from '../database/open';
import { afterStep, endsOf, getPlan, type KeptPlan, type KeptStep } from './kept';
import { reasonFor, type Said, saidOf } from './said';

/** Makes steps of the plan changes of the draft: all that fit together. The next plan proposes the others anew. */
export function takeSteps(store: Store, auditId: string, keys: readonly string[]): void {
  const audit = getAudit(store, auditId);
  const said = saidOf(store, auditId);
  const plan = getPlan(store, audit, said);
  const { taken, conflicting } = taking(audit, plan, said, new Set(keys));
  if (taken.length === 0) {
    const [title] = conflicting;
    throw new Refusal(
      title === undefined
        ? 'These steps are no longer in the plan. Nothing was changed.'
        : `“${title}” needs the steps above it. Apply them first, or all together. Nothing was changed.`,
      409,
    );
  }
  makeChanges(store, auditId, taken);
}

/** Takes an answer back, with the changes that it asked for. */
export function takeAnswerBack(store: Store, auditId: string, answer: number): void {
  inTransaction(store, (tx) => {
    dropExpectation(tx, auditId, answer);
    for (const { id, origin } of standingChanges(tx, auditId).reverse()) {
      if (origin?.answer !== answer) continue;
      const { edits, words } = takingBack(tx, getAudit(tx, auditId), id);
      if (edits.length > 0) makeChanges(tx, auditId, [{ edits, words, why: 'The answer was taken back.', undoes: id }]);
    }
  });
}

function taking(audit: Audit, plan: KeptPlan, said: Said, keys: ReadonlySet<string>) {
  const taken: NewChange[] = [];
  const conflicting: string[] = [];
  let onto = audit.draft;
  for (const list of [plan.tidy?.steps ?? [], plan.steps]) {
    let from = audit.draft;
    for (const step of list) {
      const found = keys.has(step.key) ? rebase(from, step.edits, onto) : null;
      if (found?.ok && found.edits.length > 0) {
        taken.push(changeOf(step, found.edits, plan, said));
        onto = found.chain;
      } else if (found && !found.ok) conflicting.push(step.title);
      from = afterStep(from, step);
    }
  }
  return { taken, conflicting };
}

function changeOf(step: KeptStep, edits: readonly Edit[], plan: KeptPlan, said: Said): NewChange {
  const { part, key, title, messages, agreeing, opposing, answer } = step;
  const ends = endsOf(plan, key);
  const origin = { part, agree: agreeing.length, against: opposing.length, ends, answer };
  return { edits, why: reasonFor(step, said), words: title, origin, changed: messages };
}
