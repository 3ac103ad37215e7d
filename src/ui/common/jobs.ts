'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { z } from 'zod';
import { ownJson } from '../../core/text/lookup';
import type { JobView } from '../../server/jobs/runner';
import { call } from './api';

/** The jobs of an audit, live; the page refreshes whenever one ends. */
export function useJobs(auditId: string): readonly JobView[] {
  const [jobs, setJobs] = useState<readonly JobView[]>([]);
  const router = useRouter();
  const lastEnded = useRef<string | null>(null);
  useEffect(() => {
    const events = new EventSource(`/api/audits/${auditId}/events`);
    let first = true;
    events.onmessage = (event: MessageEvent<string>) => {
      const list = ownJson<JobView[]>(event.data);
      setJobs(list);
      const ended = list.find((job) => job.state !== 'running' && job.state !== 'waiting');
      // One that ended before the first event may have done so after the page was made.
      if (first ? ended?.hasJustEnded : (ended?.id ?? null) !== lastEnded.current) router.refresh();
      lastEnded.current = ended?.id ?? null;
      first = false;
    };
    return () => events.close();
  }, [auditId, router]);
  return jobs;
}

const jobShape = z.object({ state: z.string(), message: z.string() });

/** Milliseconds between two checks of a job. */
const LOOK = 200;

/** Waits for a job; throws if it failed. Returns early once the caller has lost interest. */
export async function jobEnded(job: string, isWanted: () => boolean, what: string): Promise<void> {
  for (;;) {
    const { state, message } = jobShape.parse(await call(`/api/jobs/${job}`, 'GET'));
    if (state === 'done' || !isWanted()) return;
    if (state !== 'waiting' && state !== 'running') {
      throw new Error(`${what} failed: ${message || state}.`);
    }
    await new Promise((resolve) => setTimeout(resolve, LOOK));
  }
}
