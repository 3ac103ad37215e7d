'use client';

import type { LitView } from '../../server/chain/rule-flow-view';
import { litAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';

/** The mail of the rule at hand, rung by rung; null until it is known, and anew whenever the chain changes. */
export function useLit(auditId: string, rule: string | undefined, chain: object): LitView | null {
  const path = rule === undefined ? null : `/api/audits/${auditId}/lit?rule=${encodeURIComponent(rule)}`;
  // Without it the stream is only not lit up.
  return useAnswer(litAnswer, path, chain).answer ?? null;
}
