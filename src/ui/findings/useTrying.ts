'use client';

import { useEffect } from 'react';
import type { FindingView } from '../../server/findings/finding-view';
import { repairsAnswer } from '../../server/http/answers';
import { call } from '../common/api';
import { jobEnded } from '../common/jobs';

/**
 * Starts trying the repairs of a finding if needed; the page refreshes when the job ends. If other work came first, it
 * asks again.
 */
export function useTrying(auditId: string, finding: FindingView): boolean {
  const { key, repairs, triesAll } = finding;
  const untried = triesAll && repairs.some(({ trial }) => trial?.verdict == null);
  useEffect(() => {
    if (!untried) return;
    const state: Trying = { wanted: true, job: null };
    // If it fails, repairs are shown without effects; each can still be previewed.
    tryAll(auditId, key, state).catch(() => {});
    return () => {
      state.wanted = false;
      if (state.job) void call(`/api/jobs/${state.job}`, 'DELETE').catch(() => {});
    };
  }, [auditId, key, untried]);
  return untried;
}

interface Trying {
  wanted: boolean;
  job: string | null;
}

/** Milliseconds before it asks again if other work came first, and how often. */
const PAUSE = 1500;
const TIMES = 40;

async function tryAll(auditId: string, key: string, state: Trying): Promise<void> {
  for (let time = 0; time < TIMES && state.wanted; time++) {
    const answer = await call(`/api/audits/${auditId}/repairs`, 'POST', { key });
    state.job = repairsAnswer.parse(answer).trying;
    if (!state.job) return;
    if (!state.wanted) await call(`/api/jobs/${state.job}`, 'DELETE');
    const done = await jobEnded(state.job, () => state.wanted, 'Effects of the repairs').then(
      () => true,
      () => false,
    );
    if (done) return;
    await new Promise((resolve) => setTimeout(resolve, PAUSE));
  }
}
