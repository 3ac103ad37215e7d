import { getAudit } from '../audits';
import { store } from '../database/open';
import { apart } from './apart';
import { WORK, type WorkArguments, type WorkName, type WorkResult } from './work';

/** Rules beyond which a page that tells of all of them takes more than a tenth of a second (measured). */
const MANY = 500;

type ViewName = Exclude<WorkName, 'rules' | 'madeUp' | 'trial'>;
type MoreArguments<N extends ViewName> = WorkArguments<N> extends [string, ...infer Rest] ? Rest : never;

/** What a page shows of an audit: worked out in a thread of its own where there are many rules, so that other pages need not wait. */
export async function pageView<N extends ViewName>(
  name: N,
  auditId: string,
  ...more: MoreArguments<N>
): Promise<WorkResult<N>> {
  const args = [auditId, ...more] as unknown as WorkArguments<N>;
  if (getAudit(store(), auditId).draft.entries.length > MANY) return apart(name, ...args);
  const view = WORK[name] as (...all: unknown[]) => WorkResult<N>;
  return view(store(), ...args);
}
