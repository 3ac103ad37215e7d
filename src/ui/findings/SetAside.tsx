'use client';

import { Button, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { FindingView } from '../../server/findings/finding-view';
import { call, tell } from '../common/api';
import { formatDay } from '../common/format';
import classes from './Findings.module.css';

/** Sets the finding aside with a reason, until what it says changes; or takes it up again. */
export function SetAside({ auditId, finding }: { auditId: string; finding: FindingView }) {
  const [reason, setReason] = useState('');
  const [busy, setBusy] = useState(false);
  const router = useRouter();
  const path = `/api/audits/${auditId}/set-aside`;
  const send = async (method: 'PUT' | 'DELETE', body: object) => {
    setBusy(true);
    await call(path, method, body).then(() => router.refresh(), tell);
    setBusy(false);
  };
  if (finding.aside) {
    return (
      <p className={classes.asideRow}>
        <span>
          Set aside on {formatDay(finding.aside.createdAt)}: {finding.aside.reason}
        </span>
        <Button size="compact-sm" variant="default" loading={busy} onClick={() => send('DELETE', { key: finding.key })}>
          Take it up again
        </Button>
      </p>
    );
  }
  return (
    <form
      className={classes.asideRow}
      onSubmit={(event) => {
        event.preventDefault();
        if (reason.trim() !== '') void send('PUT', { key: finding.key, reason });
      }}
    >
      <TextInput
        size="xs"
        aria-label="Why it is set aside"
        placeholder="Why this is as it should be"
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      <Button size="compact-sm" variant="default" type="submit" loading={busy} disabled={reason.trim() === ''}>
        Set aside
      </Button>
    </form>
  );
}
