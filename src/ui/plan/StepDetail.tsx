'use client';

import { Button, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { StepLine } from '../../server/plan/view';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber, formatPart } from '../common/format';
import { Quoted } from '../common/Quoted';
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
  const [reason, setReason] = useState('');
  const { act, busy } = useAct();
  const leave = async () => {
    const said = { kind: 'step', what: title, reason };
    if (await act(() => call(`/api/audits/${auditId}/plan/declined`, 'POST', said))) onDone();
  };
  return (
    <form
      className={classes.leave}
      onSubmit={(event) => {
        event.preventDefault();
        void leave();
      }}
    >
      <TextInput
        size="xs"
        aria-label="Why this step is left out"
        placeholder="why not, for your own memory"
        maxLength={2000}
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      <Button type="submit" size="compact-sm" variant="default" loading={busy}>
        Leave out of the plan
      </Button>
    </form>
  );
}
