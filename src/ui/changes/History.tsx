'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { ChangeLine } from '../../server/changes/view';
import { editsAnswer } from '../../server/http/answers';
import { call, tell } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatMoment, formatNumber, formatPart } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Changes.module.css';

interface Props {
  readonly auditId: string;
  readonly history: readonly ChangeLine[];
  /** Messages whose fate differs from the imported chain; null if unknown. */
  readonly changed: number | null;
}

/** Every change with its reason, time and effect, newest first. Each can be undone alone. */
export function History({ auditId, history, changed }: Props) {
  const router = useRouter();
  const [busy, setBusy] = useState(false);
  const [back, setBack] = useState<{ id: number; edits: Edit[]; words: string } | null>(null);
  const post = async (path: 'undo' | 'redo') => {
    setBusy(true);
    try {
      await call(`/api/audits/${auditId}/${path}`, 'POST');
      router.refresh();
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };
  const takeBack = async (id: number) => {
    try {
      const answer = editsAnswer.parse(await call(`/api/audits/${auditId}/takeback`, 'POST', { change: id }));
      setBack({ id, ...answer });
    } catch (error) {
      tell(error);
    }
  };
  return (
    <section aria-label="History">
      <div className={classes.historyHead}>
        <h2 className={classes.heading}>History</h2>
        <Button
          size="compact-sm"
          variant="default"
          disabled={busy || !history.some(({ undone }) => !undone)}
          onClick={() => post('undo')}
        >
          Undo
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          disabled={busy || !history.some(({ undone }) => undone)}
          onClick={() => post('redo')}
        >
          Redo
        </Button>
      </div>
      {history.length === 0 && <p className={classes.from}>No changes yet.</p>}
      <ol className={classes.lines}>
        {[...history].reverse().map((change) => (
          <li key={change.id} data-undone={change.undone || undefined}>
            <strong>{change.words}</strong>
            {change.why && <p>Why: {change.why}</p>}
            <p className={classes.from}>
              {formatMoment(change.createdAt)}, changed {formatNumber(change.changedMessages)} messages
              {change.undone && ', undone'}
            </p>
            {!change.undone && (
              <p className={classes.from}>
                {change.responsible !== null && changed !== null && change.responsible > 0 && (
                  <>
                    is involved in{' '}
                    <Link href={`/audits/${auditId}/mail?change=${change.id}`}>
                      {formatPart(change.responsible, changed)}
                    </Link>{' '}
                    with a different destination ·{' '}
                  </>
                )}
                <TextButton onClick={() => takeBack(change.id)}>undo this change</TextButton>
              </p>
            )}
            {back?.id === change.id && (
              <ChangePreview
                auditId={auditId}
                edits={back.edits}
                words={back.words}
                undoes={back.id}
                why=""
                onDone={() => setBack(null)}
              />
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
