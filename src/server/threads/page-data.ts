import { getAudit, sizeOfDraft } from '../audits/audits';
import { store } from '../database/open';
import type { RulesReader } from '../gather/rules-file';
import { apart } from './pool';
import { WORK, type WorkArguments, type WorkName, type WorkResult } from './tasks';

/** Above this number of rules, computing a page takes more than 100 ms (measured). */
const MANY = 500;
/** The same for the characters of the rules, since one rule may have very many keys (measured). */
const LONG = 300_000;

type ViewName = Exclude<WorkName, 'rules' | 'madeUp' | 'trial'>;
type MoreArguments<N extends ViewName> = WorkArguments<N> extends [string, ...infer Rest] ? Rest : never;

/** Returns the data of a page. For many or long rules a worker thread computes it, so that other requests are not blocked. */
export async function pageView<N extends ViewName>(
  name: N,
  auditId: string,
  ...more: MoreArguments<N>
): Promise<WorkResult<N>> {
  // A view and its arguments are linked by one name, which TypeScript cannot follow through a table.
  const args = [auditId, ...more] as unknown as WorkArguments<N>;
  const audit = getAudit(store(), auditId);
  if (audit.draft.entries.length > MANY || sizeOfDraft(audit) > LONG) return apart(name, ...args);
  const view = WORK[name] as (...all: unknown[]) => WorkResult<N> | Promise<WorkResult<N>>;
  return await view(store(), ...args);
}

/** Reads rules from a file in a thread of its own, since it may be a script of megabytes. */
export const readsApart: RulesReader = (fileName, octets, me) => apart('rules', fileName, octets, me);
