'use client';

import type { DoneLine, PlanView } from '../../server/plan/view';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { formatMoment, formatNumber } from '../common/format';
import { Quoted } from '../common/Quoted';
import { TextButton } from '../common/TextButton';
import { useUndoAlone } from '../common/useUndoAlone';
import classes from './Plan.module.css';

/** Steps that were applied; each can be undone alone. */
export function Done({ auditId, done }: { auditId: string; done: readonly DoneLine[] }) {
  const { ask, previewOf } = useUndoAlone(auditId);
  if (done.length === 0) return null;
  return (
    <section className={classes.part} aria-label="Applied">
      <h2>Applied</h2>
      <ol className={classes.done}>
        {done.map(({ id, words, why, messages, createdAt }) => (
          <li key={id}>
            <p title={`${why} ${formatMoment(createdAt)}`}>
              <Quoted>{words}</Quoted>
              {messages > 0 && <span className={classes.soft}> moved {formatNumber(messages)}</span>}{' '}
              <TextButton aria-label={`undo: ${words}`} onClick={() => ask(id)}>
                undo
              </TextButton>
            </p>
            {previewOf(id)}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** Steps that were left out, with the reasons. */
export function LeftOut({ auditId, left }: { auditId: string; left: PlanView['left'] }) {
  const { act, busy } = useAct();
  if (left.length === 0) return null;
  return (
    <section className={classes.part} aria-label="Left out">
      <h2>Left out</h2>
      <ul className={classes.done}>
        {left.map(({ title, reason }) => (
          <li key={title}>
            <Quoted>{title}</Quoted>
            {reason !== '' && <span className={classes.soft}> because: {reason}</span>}{' '}
            <TextButton
              disabled={busy}
              aria-label={`propose again: ${title}`}
              onClick={() =>
                act(() => call(`/api/audits/${auditId}/plan/declined`, 'DELETE', { kind: 'step', what: title }))
              }
            >
              propose again
            </TextButton>
          </li>
        ))}
      </ul>
    </section>
  );
}
