'use client';

import { useDebouncedValue } from '@mantine/hooks';
import { useRef, useState } from 'react';
import type { Rule } from '../../core/rules/rule';
import type { TrialView } from '../../server/chain/trial-view';
import { trialAnswer } from '../../server/http/answers';
import { useAsked, workedOut } from '../common/answers';
import { call } from '../common/api';

export interface Trial {
  readonly view: TrialView | null;
  readonly failure: string | null;
  /** Whether the effect shown is that of the present text. */
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

/** The view of a rule being edited: refetched after every change, the last response shown meanwhile. */
export function useTrial({ auditId, ...written }: Asked): Trial {
  const wanted = JSON.stringify(written);
  const [asked] = useDebouncedValue(wanted, PAUSE);
  // Sentence and faults arrive before the effect.
  const [early, setEarly] = useState<{ readonly of: string; readonly view: TrialView } | null>(null);
  const shown = useRef<TrialView | null>(null);
  const { answer, failure, isCurrent } = useAsked(['trial', auditId, asked], (signal) =>
    workedOut({
      ask: async () => trialAnswer.parse(await call(`/api/audits/${auditId}/trial`, 'POST', JSON.parse(asked), signal)),
      jobOf: ({ weighing }) => weighing,
      what: 'The effect',
      signal,
      meanwhile: (view) => setEarly({ of: asked, view }),
      // A job for an outdated text is cancelled.
      cancels: true,
    }),
  );
  shown.current = answer ?? (early?.of === asked ? early.view : shown.current);
  const isOfNow = isCurrent && asked === wanted;
  return { view: shown.current, failure: isOfNow ? failure : null, isCurrent: isOfNow };
}
