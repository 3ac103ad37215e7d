'use client';

import { useDebouncedValue } from '@mantine/hooks';
import { triedAnswer } from '../../server/http/answers';
import type { TracedView } from '../../server/mail/message-view';
import { useAnswerTo } from '../common/answers';
import { call } from '../common/api';

interface Tried {
  /** Null until the first answer; the one before stays while another is on its way. */
  readonly view: (TracedView & { readonly line: string }) | null;
  readonly failure: string | null;
}

/** The way of a text through the chain, asked for once it has rested a moment, and anew when the chain may have changed. */
export function useTried(auditId: string, text: string, probes: readonly object[]): Tried {
  const [settled] = useDebouncedValue(text, 200);
  const ask = async (signal: AbortSignal) =>
    triedAnswer.parse(await call(`/api/audits/${auditId}/try`, 'POST', { text: settled }, signal));
  // Probes come anew with every change of the chain.
  const { answer, failure } = useAnswerTo(['try', auditId, settled], probes, ask);
  return { view: answer ?? null, failure };
}
