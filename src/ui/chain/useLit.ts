'use client';

import { useEffect, useState } from 'react';
import type { LitView } from '../../server/chain/rule-flow-view';
import { call } from '../common/api';

/** The mail of the rule at hand, rung by rung; null until it is known, and anew whenever the chain changes. */
export function useLit(auditId: string, rule: string | undefined, chain: unknown): LitView | null {
  const [lit, setLit] = useState<LitView | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another chain has another way through it
  useEffect(() => {
    let current = true;
    if (!rule) return;
    call(`/api/audits/${auditId}/lit?rule=${encodeURIComponent(rule)}`, 'GET')
      .then((answer) => current && setLit(answer as LitView))
      // Without it the stream is only not lit up.
      .catch(() => current && setLit(null));
    return () => {
      current = false;
    };
  }, [auditId, rule, chain]);
  return lit?.rule === rule ? lit : null;
}
