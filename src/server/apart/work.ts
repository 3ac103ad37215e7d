import { getAudit } from '../audits';
import type { Store } from '../database/open';
import { listProbes } from '../probes';
import { readRules } from '../rules-file';
import { absenceView } from '../views/absence';
import { chainView } from '../views/chain';
import { changesView } from '../views/changes';
import { exportView } from '../views/export';
import { findingView } from '../views/finding';
import { findingsView } from '../views/findings';
import { gatherView } from '../views/gather';
import { maybeHealth } from '../views/health';
import { madeUpView, messageView } from '../views/message';
import { overlapMapView } from '../views/overlaps';
import { reportOf } from '../views/report';
import { maybeScriptView } from '../views/script';
import { draftSheet } from '../views/sheet';
import { trialView, type Written } from '../views/trial';

/** What may be worked out apart from the thread that answers, by name. Arguments and results are plain data. */
export const WORK = {
  rules: (_store: Store, fileName: string, octets: Uint8Array) => readRules(fileName, octets),
  message: messageView,
  madeUp: (store: Store, auditId: string, text: string) => madeUpView(getAudit(store, auditId), Buffer.from(text)),
  probes: listProbes,
  absence: absenceView,
  chain: chainView,
  changes: changesView,
  export: exportView,
  finding: findingView,
  findings: findingsView,
  gather: gatherView,
  health: maybeHealth,
  overlaps: overlapMapView,
  report: reportOf,
  script: maybeScriptView,
  sheet: draftSheet,
  trial: (store: Store, auditId: string, written: Written) => trialView(store, auditId, written),
} satisfies Readonly<Record<string, (store: Store, ...args: never[]) => unknown>>;

export type WorkName = keyof typeof WORK;
type Rest<T> = T extends (store: Store, ...args: infer A) => unknown ? A : never;
export type WorkArguments<N extends WorkName> = Rest<(typeof WORK)[N]>;
export type WorkResult<N extends WorkName> = Awaited<ReturnType<(typeof WORK)[N]>>;

/** What passes to a thread and back. */
export interface ApartTask {
  readonly databaseFile: string;
  readonly name: WorkName;
  readonly args: readonly unknown[];
}

export type ApartAnswer =
  | { readonly kind: 'done'; readonly result: unknown }
  | { readonly kind: 'refused'; readonly message: string; readonly status: number }
  | { readonly kind: 'failed'; readonly message: string };
