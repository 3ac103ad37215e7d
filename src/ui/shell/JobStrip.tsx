'use client';

import { Button, Progress } from '@mantine/core';
import { useEffect, useState } from 'react';
import type { JobView } from '../../server/jobs/runner';
import { call, tell } from '../common/api';
import { formatBytes, formatNumber } from '../common/format';
import classes from './JobStrip.module.css';

const KIND_WORDS = {
  import: 'Importing mail',
  fetch: 'Fetching mail',
  simulate: 'Simulating',
  verify: 'Verifying the script',
  weigh: 'Previewing a change',
  foresee: 'Predicting findings',
  repairs: 'Previewing repairs',
  compare: 'Comparing chains',
  plan: 'Working out the plan',
} as const satisfies Record<JobView['kind'], string>;

/**
 * Long work under way, with its progress, the time left and a button to cancel it; otherwise how the last job ended. One line that
 * is always there, so that nothing moves under a user's hand when a job starts or ends; further jobs are listed above it.
 */
export function JobStrip({ jobs }: { jobs: readonly JobView[] }) {
  const [now, setNow] = useState(0);
  const live = jobs.filter((job) => (job.state === 'running' || job.state === 'waiting') && !isBrief(job, now));
  const ended = jobs.find((job) => job.state !== 'running' && job.state !== 'waiting');
  useEffect(() => {
    setNow(Date.now());
    const clock = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(clock);
  }, []);
  return (
    <div className={classes.strip}>
      <div className={classes.jobs} data-live={live.length > 0 || undefined} role="status" aria-live="polite">
        {live.map((job) => (
          <div key={job.id} className={classes.job}>
            <span className={classes.words}>
              {KIND_WORDS[job.kind]}
              {job.state === 'waiting' ? ': waiting' : progressWords(job, now)}
            </span>
            <Progress
              className={classes.bar}
              value={job.progress && job.progress.total > 0 ? (100 * job.progress.done) / job.progress.total : 0}
              aria-label={KIND_WORDS[job.kind]}
              size="sm"
            />
            <Button
              size="compact-xs"
              variant="default"
              onClick={() => call(`/api/jobs/${job.id}`, 'DELETE').catch(tell)}
            >
              Cancel
            </Button>
          </div>
        ))}
        {live.length === 0 && ended && <div className={classes.job}>{endWords(ended)}</div>}
      </div>
    </div>
  );
}

function endWords({ kind, state, message }: JobView): string {
  const work = KIND_WORDS[kind];
  // The finding that repairs were tried for shows them itself.
  if (state === 'done' && kind === 'repairs') return '';
  if (state === 'done') return `${work}: done.`;
  return state === 'cancelled' ? `${work}: cancelled.` : `${work} failed: ${message}.`;
}

/** Repairs are tried whenever a finding is opened, which shows that itself. */
const isBrief = ({ kind, startedAt }: JobView, now: number): boolean =>
  kind === 'repairs' && (startedAt === null || now - startedAt < BRIEF);

/** Milliseconds. */
const BRIEF = 8000;

function progressWords({ progress, startedAt }: JobView, now: number): string {
  if (!progress) return '';
  const { phase, done, total, unit, messages } = progress;
  const amount =
    unit === 'bytes'
      ? `${formatBytes(done)} of ${formatBytes(total)}`
      : `${formatNumber(done)} of ${formatNumber(total)} ${unit}`;
  const so = messages === undefined ? '' : `, ${formatNumber(messages)} messages`;
  const left = startedAt && done > 0 && now > startedAt ? ((now - startedAt) * (total - done)) / done : null;
  const time = left !== null && left > 2000 ? `, about ${Math.ceil(left / 1000)} s left` : '';
  return `: ${phase}, ${amount}${so}${time}`;
}
