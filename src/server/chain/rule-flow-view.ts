import { Bitmap } from '../../core/flow/bitmap';
import { getAudit, Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { getFlow } from './simulation';

/** The mail of one rule on its way through the whole chain, for every rung. */
export interface RuleMailView {
  readonly rule: string;
  /** Whether it is the mail the rule acts on, or, where it acts on none, the mail its tests hold for. */
  readonly of: 'fired' | 'held';
  readonly total: number;
  /** How many of these messages come to each rung, in the order of the chain. */
  readonly passing: readonly number[];
}

export function ruleMailView(store: Store, auditId: string, rule: string): RuleMailView {
  const audit = getAudit(store, auditId);
  const flow = getFlow(store, audit);
  const own = flow.entries.find(({ entry }) => entry.id === rule);
  if (!own) throw new Refusal('There is no such rule.', 404);
  const of = own.fired.isEmpty() ? 'held' : 'fired';
  const mail = own[of];
  let ended = new Bitmap(flow.count);
  const passing = flow.entries.map(({ stopped }) => {
    const here = mail.without(ended).count();
    ended = ended.or(stopped);
    return here;
  });
  return { rule, of, total: mail.count(), passing };
}
