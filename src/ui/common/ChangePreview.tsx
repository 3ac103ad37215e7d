'use client';

import { Button, Loader } from '@mantine/core';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { Broken } from '../../server/changes/expectations';
import { previewAnswer } from '../../server/http/answers';
import { useAsked, workedOut } from './answers';
import { call } from './api';
import { ChangeEffect } from './ChangeEffect';
import classes from './ChangePreview.module.css';
import { Foresight } from './Foresight';
import { Stopped } from './Stopped';
import { useAct } from './useAct';

interface Props {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  readonly why: string;
  /** What is said of the change, where the edits do not say it themselves. */
  readonly words?: string;
  readonly onDone: () => void;
  /** Called instead of `onDone` when the change was made. */
  readonly onMade?: () => void;
}

/** A change that is not made yet, with the messages whose fate it would change. */
export function ChangePreview({ auditId, edits, why, words, onDone, onMade = onDone }: Props) {
  const { act, busy } = useAct();
  /** What only reasoning shows is known later. */
  const [late, setLate] = useState<{ of: string; broken: readonly Broken[] } | null>(null);
  const wanted = JSON.stringify(edits);
  const { answer: preview, failure } = useAsked(['preview', auditId, wanted], (signal) =>
    workedOut({
      ask: async () => previewAnswer.parse(await call(`/api/audits/${auditId}/preview`, 'POST', { edits }, signal)),
      jobOf: ({ weighing }) => weighing,
      what: 'The effect of this change',
      signal,
      cancels: false,
    }),
  );
  const make = async () => {
    const change = { edits, why, ...(words ? { words } : {}) };
    if (await act(() => call(`/api/audits/${auditId}/edits`, 'POST', change))) onMade();
  };
  const known = late?.of === wanted ? late.broken : [];
  const broken = known.length > 0 ? known : (preview?.broken ?? []);
  return (
    <section className={classes.preview} aria-live="polite" aria-label="Effect of the change">
      {failure && <p className={classes.failure}>{failure}</p>}
      {!failure && !preview && <Loader size="xs" type="dots" />}
      {preview && <ChangeEffect auditId={auditId} edits={edits} preview={words ? { ...preview, words } : preview} />}
      {broken.length > 0 && <Stopped auditId={auditId} broken={broken} />}
      {preview?.comparison && (
        <Foresight auditId={auditId} edits={edits} onBroken={(broken) => setLate({ of: wanted, broken })} />
      )}
      <div className={classes.buttons}>
        <Button size="compact-sm" onClick={make} loading={busy} disabled={!preview || broken.length > 0}>
          Make this change
        </Button>
        <Button size="compact-sm" variant="subtle" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </section>
  );
}
