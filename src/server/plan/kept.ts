import { createHash } from 'node:crypto';
import { eq } from 'drizzle-orm';
import type { Destination } from '../../core/fates/destination';
import type { Size } from '../../core/plan/tidy';
import type { Assumption } from '../../core/reason/solve/assumptions';
import { applyEdits, type Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import { type Audit, Refusal } from '../audits/audits';
import { findingsKey } from '../cache/keys';
import type { Store } from '../database/open';
import { plans } from '../database/schema';
import { type Said, saidKey } from './said';

/** The plan for the draft of an audit. Parts that are not worked out yet are null. */
export interface KeptPlan {
  readonly tidy: KeptTidy | null;
  /** Mends, then what answers ask for; each for the draft with those before. */
  readonly steps: readonly KeptStep[];
  readonly questions: readonly KeptQuestion[];
  /** About messages that are not stored. */
  readonly made: readonly KeptMade[];
  /** Ids of the answers that no change was found for. */
  readonly unmet: readonly number[];
  /** Keys of findings of which the answers leave nothing to decide. */
  readonly settled: readonly string[];
  readonly counted: Counted | null;
}

export interface KeptTidy {
  /** Each for the draft with those before. */
  readonly steps: readonly KeptStep[];
  /** What the proofs assume. */
  readonly assumes: readonly Assumption[];
  readonly before: Size;
  readonly after: Size;
}

export interface KeptStep {
  /** Names the step within the plan. */
  readonly key: string;
  readonly part: 'tidy' | 'mend' | 'answer';
  readonly title: string;
  /** For the draft with the steps before it. */
  readonly edits: readonly Edit[];
  /** For the draft alone; null if it needs the steps before it. */
  readonly alone: readonly Edit[] | null;
  /** How many messages have another fate. */
  readonly messages: number;
  /** The messages that the user's own acts want moved so, and those that lie where they would leave. */
  readonly agreeing: readonly number[];
  readonly opposing: readonly number[];
  /** What a proof of it assumes. */
  readonly assumes: readonly Assumption[];
  /** Keys of the findings that it answers. */
  readonly findings: readonly string[];
  /** The id of the answer that it gives. */
  readonly answer: number | null;
}

export interface KeptQuestion {
  readonly message: number;
  readonly options: readonly KeptOption[];
  /** Keys of the findings that the answer settles. */
  readonly findings: readonly string[];
}

export interface KeptMade {
  /** Names the question. */
  readonly key: string;
  /** RFC 5322. */
  readonly text: string;
  /** The id of the answer that could be given by either of two changes. */
  readonly answer: number | null;
  readonly options: readonly KeptMadeOption[];
}

export interface KeptMadeOption {
  readonly destination: Destination;
  readonly asNow: boolean;
  /** What the change behind it does; empty if there is none. */
  readonly title: string;
  /** The fate that a probe of the message would expect then. */
  readonly line: string;
}

export interface KeptOption {
  readonly destination: Destination;
  readonly asNow: boolean;
  readonly messages: number;
  /** What the change behind it does; empty if there is none. */
  readonly title: string;
  /** Keys of the findings that it resolves; for as it is now, those that are then taken to be meant. */
  readonly findings: readonly string[];
  /** That change, for the draft with all steps of `KeptPlan.steps`. */
  readonly edits: readonly Edit[];
}

/** What all steps together do to the confirmed findings. */
export interface Counted {
  readonly confirmed: number;
  /** Those that are gone with all steps, with the key of the step that ends each; null if none does alone. */
  readonly ended: readonly { readonly key: string; readonly step: string | null }[];
}

/** The chain with one more step. */
export function afterStep(chain: Chain, { edits }: Pick<KeptStep, 'edits'>): Chain {
  const applied = applyEdits(chain, edits);
  if (!applied.ok) throw new Error(`a step of the plan does not apply: ${applied.reason}`);
  return applied.chain;
}

/** How many findings a step ends; null if that was not counted. */
export const endsOf = ({ counted }: KeptPlan, step: string): number | null =>
  counted === null ? null : counted.ended.filter((one) => one.step === step).length;

/** The step of a plan that a change of the draft was. */
export interface ChangeOrigin {
  readonly part: 'tidy' | 'mend' | 'answer';
  /** Messages that the user's own acts wanted moved so, and those that lay where they left. */
  readonly agree: number;
  readonly against: number;
  readonly ends: number | null;
  /** The id of the answer that it gives. */
  readonly answer: number | null;
}

/** To be increased when plans hold something else, so that those of earlier versions are not shown. */
const PLAN_FORMAT = 2;

/** Names the chain and the facts that a plan is about. */
export const planBase = (audit: Audit): string => `${findingsKey(audit, audit.draft)} planned in ${PLAN_FORMAT}`;

export const madeKey = (text: string): string => createHash('sha256').update(text).digest('base64url').slice(0, 16);

export const stepKey = (part: KeptStep['part'], title: string, answer: number | null): string =>
  createHash('sha256')
    .update(JSON.stringify([part, title, answer]))
    .digest('base64url')
    .slice(0, 16);

export function keepPlan(store: Store, audit: Audit, said: Said, plan: KeptPlan): void {
  const row = { auditId: audit.id, base: planBase(audit), said: saidKey(said), plan };
  store.insert(plans).values(row).onConflictDoUpdate({ target: plans.auditId, set: row }).run();
}

export interface FoundPlan {
  readonly plan: KeptPlan;
  /** Whether it follows what the user has said by now. */
  readonly isCurrent: boolean;
}

/** The plan for the draft; null if none was worked out for it. */
export function maybePlan(store: Store, audit: Audit, said: Said): FoundPlan | null {
  const row = store.select().from(plans).where(eq(plans.auditId, audit.id)).get();
  return row?.base === planBase(audit) ? { plan: row.plan, isCurrent: row.said === saidKey(said) } : null;
}

export function getPlan(store: Store, audit: Audit, said: Said): KeptPlan {
  const found = maybePlan(store, audit, said);
  if (!found) throw new Refusal('The plan is being worked out anew. Try again in a moment.', 409);
  return found.plan;
}
