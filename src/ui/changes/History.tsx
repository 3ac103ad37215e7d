'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ChangeLine } from '../../server/changes/view';
import { call, tell } from '../common/api';
import { formatMoment, formatNumber, formatPart } from '../common/format';
import { TextButton } from '../common/TextButton';
import { useUndoAlone } from '../common/useUndoAlone';
import { WhyButton } from '../common/WhyButton';
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
  const { ask, previewOf } = useUndoAlone(auditId);
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
  return (
    <section aria-label="History">
      <div className={classes.historyHead}>
        <h2 className={classes.heading}>History</h2>
        <WhyButton
          size="compact-sm"
          variant="default"
          why={history.some(({ undone }) => !undone) ? null : 'There is nothing to undo.'}
          disabled={busy}
          onClick={() => post('undo')}
        >
          Undo
        </WhyButton>
        <WhyButton
          size="compact-sm"
          variant="default"
          why={history.some(({ undone }) => undone) ? null : 'There is nothing to redo.'}
          disabled={busy}
          onClick={() => post('redo')}
        >
          Redo
        </WhyButton>
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
                <TextButton onClick={() => ask(change.id)}>undo this change</TextButton>
              </p>
            )}
            {previewOf(change.id)}
          </li>
        ))}
      </ol>
    </section>
  );
}
