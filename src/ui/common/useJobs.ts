'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { ownJson } from '../../core/text/own-json';
import type { JobView } from '../../server/jobs/runner';

/** The jobs of an audit as they change; the page's data is asked for anew whenever one ends. */
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
      const ended = list.find((job) => job.state !== 'running' && job.state !== 'waiting')?.id ?? null;
      if (!first && ended !== lastEnded.current) router.refresh();
      lastEnded.current = ended;
      first = false;
    };
    return () => events.close();
  }, [auditId, router]);
  return jobs;
}
