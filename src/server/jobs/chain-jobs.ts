import { askingChain } from '../../core/repair/expectations';
import type { Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import { type Audit, getAudit } from '../audits/audits';
import { chainHash } from '../cache/keys';
import { evaluateAndKeep, missingAtoms } from '../chain/simulation';
import { chainAfter } from '../changes/changes';
import { listExpectations } from '../changes/expectations';
import { workOutReasoned, workOutVerdict } from '../changes/verdicts';
import { type ChainRef, chainAt } from '../changes/versions';
import type { Store } from '../database/open';
import { maybeStatedFindings, repairsFor } from '../findings/for-target';
import { auditAndKeep, maybeResult } from '../findings/results';
import { workOutKnowledge } from '../mail/knowledge';
import type { JobContext } from './job';
import { placeMail } from './place-mail';
import { rereadMail } from './reread';
import type { Sharer } from './sharer';

/** Evaluates the tests that edits would add, so that their effect can be previewed. */
export async function weigh(
  store: Store,
  job: JobContext,
  edits: readonly Edit[],
  sharer: Sharer | null,
): Promise<string> {
  const audit = getAudit(store, job.auditId);
  await evaluateChains(store, job, [audit.draft, chainAfter(audit, edits)], sharer);
  return 'the effect is known';
}

/** Evaluates missing atoms of some chains and their expectations. */
export async function evaluateChains(
  store: Store,
  job: JobContext,
  chains: readonly Chain[],
  sharer: Sharer | null,
): Promise<void> {
  const audit = getAudit(store, job.auditId);
  const asking = askingChain(listExpectations(store, audit.id));
  const missing = [...chains, asking].flatMap((chain) => missingAtoms(store, audit, chain));
  const progress = (done: number, total: number) => {
    job.checkpoint();
    job.report({ phase: 'evaluating tests', done, total, unit: 'columns' });
  };
  await evaluateAndKeep(store, audit, missing, progress, sharer);
}

/**
 * Reads mail stored by an earlier reader again, puts mail where a header field says, evaluates missing atoms of the draft and the baseline, then audits the
 * draft.
 */
export async function simulate(store: Store, job: JobContext, sharer: Sharer | null): Promise<string> {
  rereadMail(store, job);
  placeMail(store, job);
  const audit = getAudit(store, job.auditId);
  await evaluateChains(store, job, [audit.draft], sharer);
  job.checkpoint();
  job.report({ phase: 'finding conversations and correspondents', done: 0, total: 1, unit: 'steps' });
  workOutKnowledge(store, audit, job.checkpoint);
  job.checkpoint();
  const { findings } =
    maybeResult(store, audit, audit.draft) ??
    auditAndKeep(store, audit, audit.draft, (done, total) => {
      job.checkpoint();
      job.report({ phase: 'looking for findings', done, total, unit: 'steps' });
    });
  answer(store, job, audit, audit.draft);
  return `${findings.length} findings`;
}

/**
 * Compares two chains of an audit on stored mail, and by proof for all possible messages; and checks the expectations under the
 * second one.
 */
export async function compare(
  store: Store,
  job: JobContext,
  { before, after }: { readonly before: ChainRef; readonly after: ChainRef },
  sharer: Sharer | null,
): Promise<string> {
  const audit = getAudit(store, job.auditId);
  const [first, second] = [chainAt(store, audit, before), chainAt(store, audit, after)];
  await evaluateChains(store, job, [first, second], sharer);
  job.checkpoint();
  job.report({ phase: 'comparing chains', done: 0, total: 1, unit: 'steps' });
  const { verdict } = workOutVerdict(store, audit, first, second, job.checkpoint);
  checkExpectations(store, job, audit, second);
  return verdict;
}

/**
 * Audits the draft with edits, to find which findings they would resolve or add, whether any possible message is
 * treated differently, and which expectations they break.
 */
export async function foresee(
  store: Store,
  job: JobContext,
  edits: readonly Edit[],
  sharer: Sharer | null,
): Promise<string> {
  await weigh(store, job, edits, sharer);
  const audit = getAudit(store, job.auditId);
  const chain = chainAfter(audit, edits);
  const { findings } =
    maybeResult(store, audit, chain) ??
    auditAndKeep(store, audit, chain, (done, total) => {
      job.checkpoint();
      job.report({ phase: 'looking for findings', done, total, unit: 'steps' });
    });
  answer(store, job, audit, chain);
  return `${findings.length} findings`;
}

/** Compares a chain with the draft by proof, or the draft with the imported chain, and checks the expectations. */
export function answer(store: Store, job: JobContext, audit: Audit, chain: Chain): void {
  job.checkpoint();
  job.report({ phase: 'comparing chains', done: 0, total: 1, unit: 'steps' });
  workOutVerdict(store, audit, chain === audit.draft ? audit.baseline : audit.draft, chain, job.checkpoint);
  checkExpectations(store, job, audit, chain);
}

function checkExpectations(store: Store, job: JobContext, audit: Audit, chain: Chain): void {
  const asked = listExpectations(store, audit.id);
  asked.forEach((expectation, done) => {
    job.checkpoint();
    job.report({ phase: 'checking expectations', done, total: asked.length, unit: 'steps' });
    workOutReasoned(store, audit, chain, expectation, job.checkpoint);
  });
}

/** Tries each repair of a finding on the draft, so that its effect is known before it is offered. */
export async function tryRepairs(store: Store, job: JobContext, key: string, sharer: Sharer | null): Promise<string> {
  const audit = getAudit(store, job.auditId);
  const finding = maybeStatedFindings(store, audit)?.find((candidate) => candidate.key === key);
  const repairs = finding ? repairsFor(store, audit, finding) : [];
  for (const { edits } of repairs) {
    job.checkpoint();
    // Stops if the chain has changed meanwhile: nobody needs the result.
    if (chainHash(getAudit(store, job.auditId).draft) !== chainHash(audit.draft))
      return 'the chain was changed meanwhile';
    await foresee(store, job, edits, sharer);
  }
  return `${repairs.length} repairs previewed`;
}
