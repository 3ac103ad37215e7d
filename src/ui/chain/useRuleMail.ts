'use client';

import type { RuleMailView } from '../../server/chain/flows-view';
import { ruleMailAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';

/** The mail of the rule at hand, rung by rung; null until it is known, and anew whenever the chain changes. */
export function useRuleMail(auditId: string, rule: string | undefined, chain: object): RuleMailView | null {
  const path = rule === undefined ? null : `/api/audits/${auditId}/rule-mail?rule=${encodeURIComponent(rule)}`;
  // Without it only the whole stream is shown.
  return useAnswer(ruleMailAnswer, path, chain).answer ?? null;
}
