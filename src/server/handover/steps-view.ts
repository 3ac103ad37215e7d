import { createHash } from 'node:crypto';
import { runFlow } from '../../core/flow/flow';
import { Knowledge } from '../../core/reason/knowledge';
import { BUDGET } from '../../core/reason/solve/solver';
import { stepTitle, type ToldStep, type ToldSteps, toldSteps } from '../../core/repair/told-steps';
import { profileWords } from '../../core/rules/profile-words';
import type { Chain } from '../../core/rules/rule';
import { type Audit, getAudit } from '../audits/audits';
import { maybeAtomBitmaps, maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { memoryOf } from '../findings/results';

/** The draft as steps by hand, for a program that takes no script. */
export interface StepsView {
  /** How the program runs rules, in sentences; null if as Sieve does. */
  readonly program: string | null;
  /** Null while the chains are not simulated. */
  readonly found: ToldSteps | null;
  /** For each step what tells it from others, so that it stays ticked. */
  readonly keys: readonly string[];
  readonly titles: readonly string[];
}

/** The steps from the rules as imported to the draft; may take seconds. */
export function stepsView(store: Store, auditId: string): StepsView {
  const audit = getAudit(store, auditId);
  const found = maybeSteps(store, audit);
  const { profile } = audit.draft;
  return {
    program: profile ? profileWords(profile) : null,
    found,
    keys: found?.steps.map(keyOf) ?? [],
    titles: found?.steps.map(stepTitle) ?? [],
  };
}

/** Null while the chains are not simulated. */
export function maybeSteps(store: Store, audit: Audit): ToldSteps | null {
  const { baseline, draft } = audit;
  const [first, last] = [baseline, draft].map((chain) => maybeFlow(store, audit, chain));
  if (!first || !last) return null;
  const flowOf = (state: Chain) => {
    // States are many, and looked at once: they do not drive flows of pages from the cache.
    const atoms = maybeAtomBitmaps(store, audit, state);
    return atoms && runFlow(state, atoms, audit.messageCount);
  };
  const knowledge = new Knowledge(BUDGET, memoryOf(audit).knowledge);
  return toldSteps(baseline, draft, { ends: [first, last], flowOf, clock: audit.clock, knowledge });
}

const keyOf = ({ do: what, rule, before, after, isOn }: ToldStep): string =>
  createHash('sha256')
    .update(JSON.stringify([what, rule, before, after, isOn]))
    .digest('base64url')
    .slice(0, 16);
