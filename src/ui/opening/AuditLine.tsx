import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { call, tell } from '../common/api';
import { formatDay, messagesWord } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Opening.module.css';

export interface AuditView {
  readonly id: string;
  readonly name: string;
  readonly messageCount: number;
  readonly createdAt: number;
  /** Whether it is the demo audit. */
  readonly isDemo: boolean;
}

/** An audit to open, or to delete after confirmation. */
export function AuditLine({ audit }: { audit: AuditView }) {
  const router = useRouter();
  const [state, setState] = useState<'rests' | 'asks' | 'goes'>('rests');
  const remove = async () => {
    setState('goes');
    try {
      await call(`/api/audits/${audit.id}`, 'DELETE');
      router.refresh();
    } catch (error) {
      setState('rests');
      tell(error);
    }
  };
  return (
    <li className={classes.line}>
      <Link href={`/audits/${audit.id}${audit.messageCount > 0 ? '' : '/gather'}`}>
        <bdi>{audit.name}</bdi>
      </Link>
      {audit.isDemo && state === 'rests' && <span className={classes.soft}>sample</span>}
      <span className={classes.leader} />
      {state === 'rests' ? (
        <>
          <span>{messagesWord(audit.messageCount)}</span>
          <span className={classes.day}>{formatDay(audit.createdAt)}</span>
          <TextButton aria-label={`delete ${audit.name}`} onClick={() => setState('asks')}>
            delete
          </TextButton>
        </>
      ) : (
        <>
          <span className={classes.asks}>
            Its rules, its changes and its copy of {messagesWord(audit.messageCount)} will be deleted permanently.
          </span>
          <Button size="compact-xs" color="madder" loading={state === 'goes'} onClick={remove}>
            Delete
          </Button>
          <Button size="compact-xs" variant="default" disabled={state === 'goes'} onClick={() => setState('rests')}>
            Cancel
          </Button>
        </>
      )}
    </li>
  );
}
