'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import type { StepLine } from '../../server/plan/view';
import { call } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber, formatPart } from '../common/format';
import { Quoted } from '../common/Quoted';
import { ReasonForm } from '../common/ReasonForm';
import classes from './Plan.module.css';

interface Props {
  readonly auditId: string;
  readonly step: StepLine;
  /** Stored messages that take part. */
  readonly total: number;
}

/** What a step changes: messages, findings, rules; why; and what to do with it. */
export function StepDetail({ auditId, step, total }: Props) {
  const router = useRouter();
  const { key, part, title, why, messages, agree, against, ends, edits } = step;
  const mail = (says: string) => `/audits/${auditId}/mail?step=${key}&says=${says}`;
  const close = () => router.replace(`/audits/${auditId}/plan`, { scroll: false });
  return (
    <article className={classes.detail} aria-label="Step">
      <h1 className={classes.claim}>
        <Quoted>{title}</Quoted>
      </h1>
      <p>{why}</p>
      <p className={classes.soft}>
        {messages === 0 ? 'Moves no stored message' : `Moves ${formatPart(messages, total)} messages`}
        {ends === null ? '' : `, resolves ${formatNumber(ends)} findings`}.
        {(agree > 0 || against > 0) && (
          <>
            {' '}
            Speaking for it: <Link href={mail('agreeing')}>{formatNumber(agree)}</Link>; against it:{' '}
            {against > 0 ? <Link href={mail('opposing')}>{formatNumber(against)}</Link> : '0'}.
          </>
        )}
      </p>
      {edits ? (
        <ChangePreview
          auditId={auditId}
          edits={edits}
          why={why}
          words={title}
          isTitled
          apply={() => call(`/api/audits/${auditId}/plan/take`, 'POST', { steps: [key] })}
          onDone={close}
        />
      ) : (
        <p>This step builds on the steps above it. Apply those first, or all of them together.</p>
      )}
      {part !== 'answer' && <LeaveOut auditId={auditId} title={title} onDone={close} />}
    </article>
  );
}

function LeaveOut({ auditId, title, onDone }: { auditId: string; title: string; onDone: () => void }) {
  return (
    <div className={classes.leave}>
      <ReasonForm
        label="Why this step is left out"
        placeholder="why not, for your own memory"
        why={null}
        onReason={(reason) =>
          call(`/api/audits/${auditId}/plan/declined`, 'POST', { kind: 'step', what: title, reason })
        }
        onDone={onDone}
      >
        Leave out of the plan
      </ReasonForm>
    </div>
  );
}
