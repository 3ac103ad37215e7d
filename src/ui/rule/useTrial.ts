'use client';

import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useState } from 'react';
import { z } from 'zod';
import type { Rule } from '../../core/rules/rule';
import type { TrialView } from '../../server/chain/trial-view';
import { call } from '../common/api';
import { jobEnded } from '../common/jobEnded';

const trialShape = z.custom<TrialView & { readonly weighing: string | null }>(
  (answer) => typeof answer === 'object' && answer !== null && 'faults' in answer,
);

export interface Trial {
  readonly view: TrialView | null;
  readonly failure: string | null;
  /** What is shown is of the rule as it is written now. */
  readonly isCurrent: boolean;
}

/** Milliseconds without typing before the server is asked. */
const PAUSE = 150;

interface Asked {
  readonly auditId: string;
  readonly rule: Rule;
  readonly begun: Rule | null;
  readonly behind: string | null;
}

/** What is to be said of a rule while it is written: asked for whenever it has changed, the last answer shown meanwhile. */
export function useTrial({ auditId, ...written }: Asked): Trial {
  const wanted = JSON.stringify(written);
  const [asked] = useDebouncedValue(wanted, PAUSE);
  const [answer, setAnswer] = useState<{ of: string; view: TrialView | null; failure: string | null } | null>(null);
  useEffect(() => {
    const state: { current: boolean; job: string | null } = { current: true, job: null };
    // Words and faults are known before the effect is.
    const show = (view: TrialView, of: string) => state.current && setAnswer({ of, view, failure: null });
    ask(auditId, asked, state, (view) => show(view, ''))
      .then((view) => view && show(view, asked))
      .catch((error: Error) => state.current && setAnswer({ of: asked, view: null, failure: error.message }));
    return () => {
      state.current = false;
      // What is evaluated for words that no longer stand there serves nobody.
      if (state.job) call(`/api/jobs/${state.job}`, 'DELETE').catch(() => {});
    };
  }, [auditId, asked]);
  return {
    view: answer?.view ?? null,
    failure: answer?.of === wanted ? answer.failure : null,
    isCurrent: answer?.of === wanted,
  };
}

async function ask(
  auditId: string,
  written: string,
  state: { current: boolean; job: string | null },
  meanwhile: (view: TrialView) => void,
): Promise<TrialView | null> {
  for (;;) {
    const answer = trialShape.parse(await call(`/api/audits/${auditId}/trial`, 'POST', JSON.parse(written)));
    if (!answer.weighing || !state.current) return answer;
    meanwhile(answer);
    state.job = answer.weighing;
    await jobEnded(answer.weighing, () => state.current, 'The effect');
    state.job = null;
    if (!state.current) return null;
  }
}
