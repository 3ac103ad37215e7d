import type { Rule } from '../../core/rules/rule';
import { getAudit, type Refusal } from '../audits/audits';
import { maybeScriptView } from '../chain/script-view';
import { draftSentences, draftSheet } from '../chain/sheet-view';
import { trialView, type Written } from '../chain/trial-view';
import { typedView } from '../chain/typed-view';
import { chainView } from '../chain/view';
import { learnedSetView } from '../changes/learned-view';
import { changesView } from '../changes/view';
import type { Store } from '../database/open';
import { findingView } from '../findings/finding-view';
import { maybeHealth } from '../findings/health-view';
import { findingsView } from '../findings/list-view';
import { overlapMapView } from '../findings/overlaps-view';
import { placeFieldView } from '../gather/place-field';
import { maybeBetterProfile } from '../gather/profile-view';
import { readRules } from '../gather/rules-file';
import { gatherView } from '../gather/view';
import { exportView } from '../handover/export-view';
import { reportOf } from '../handover/report-view';
import { stepsView } from '../handover/steps-view';
import { absenceView } from '../mail/absence-view';
import { madeUpView, messageView } from '../mail/message-view';
import { listProbes } from '../mail/probes';
import { mailboxView } from '../mailbox/view';
import { giveAnswer, scopesView } from '../plan/scopes';
import { planView } from '../plan/view';

/** Tasks that can run outside the main thread, by name. Arguments and results are plain data. */
export const WORK = {
  rules: (_store: Store, fileName: string, octets: Uint8Array, me?: readonly string[]) =>
    readRules(fileName, octets, me),
  mailbox: mailboxView,
  message: messageView,
  madeUp: (store: Store, auditId: string, text: string) => madeUpView(getAudit(store, auditId), Buffer.from(text)),
  probes: listProbes,
  absence: absenceView,
  answer: giveAnswer,
  chain: chainView,
  changes: changesView,
  export: exportView,
  finding: findingView,
  findings: findingsView,
  gather: gatherView,
  health: maybeHealth,
  learned: learnedSetView,
  overlaps: overlapMapView,
  places: placeFieldView,
  plan: planView,
  program: maybeBetterProfile,
  report: reportOf,
  scopes: scopesView,
  script: maybeScriptView,
  sentences: draftSentences,
  sheet: draftSheet,
  steps: stepsView,
  typed: (store: Store, auditId: string, rules: readonly Rule[]) => typedView(store, auditId, rules),
  trial: (store: Store, auditId: string, written: Written) => trialView(store, auditId, written),
} satisfies Readonly<Record<string, (store: Store, ...args: never[]) => unknown>>;

export type WorkName = keyof typeof WORK;
type Rest<T> = T extends (store: Store, ...args: infer A) => unknown ? A : never;
export type WorkArguments<N extends WorkName> = Rest<(typeof WORK)[N]>;
export type WorkResult<N extends WorkName> = Awaited<ReturnType<(typeof WORK)[N]>>;

/** Messages to and from a thread. */
export interface ApartTask {
  readonly databaseFile: string;
  readonly name: WorkName;
  readonly args: readonly unknown[];
}

export type ApartAnswer =
  | { readonly kind: 'done'; readonly result: unknown }
  | { readonly kind: 'refused'; readonly message: string; readonly status: Refusal['status'] }
  | { readonly kind: 'failed'; readonly message: string };
