'use client';

import { type ReactNode, useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import { editsAnswer } from '../../server/http/answers';
import { call, tell } from './api';
import { ChangePreview } from './ChangePreview';

/** Undoes one change alone: its effect is shown first, below the change itself. */
export function useUndoAlone(auditId: string): {
  readonly ask: (id: number) => Promise<void>;
  readonly previewOf: (id: number) => ReactNode;
} {
  const [back, setBack] = useState<{ id: number; edits: Edit[]; words: string } | null>(null);
  const ask = async (id: number) => {
    try {
      const answer = editsAnswer.parse(await call(`/api/audits/${auditId}/takeback`, 'POST', { change: id }));
      setBack({ id, ...answer });
    } catch (error) {
      tell(error);
    }
  };
  const previewOf = (id: number) =>
    back?.id === id && (
      <ChangePreview
        auditId={auditId}
        edits={back.edits}
        words={back.words}
        undoes={id}
        why=""
        onDone={() => setBack(null)}
      />
    );
  return { ask, previewOf };
}
