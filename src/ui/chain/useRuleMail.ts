'use client';

import type { RuleMailView } from '../../server/chain/flows-view';
import { ruleMailAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';

/** The mail of the selected rule, rung by rung; null while unknown. Refetched when the chain changes. */
export function useRuleMail(auditId: string, rule: string | undefined, chain: object): RuleMailView | null {
  const path = rule === undefined ? null : `/api/audits/${auditId}/rule-mail?rule=${encodeURIComponent(rule)}`;
  // If it fails, only the whole stream is shown.
  return useAnswer(ruleMailAnswer, path, chain).answer ?? null;
}
