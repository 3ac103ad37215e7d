import { z } from 'zod';
import { call } from './api';

const jobShape = z.object({ state: z.string(), message: z.string() });

/** Milliseconds between two looks at a job. */
const LOOK = 200;

/** Waits for a job; throws where it did not come to its end. Returns early once nobody wants to know any more. */
export async function jobEnded(job: string, isWanted: () => boolean, what: string): Promise<void> {
  for (;;) {
    const { state, message } = jobShape.parse(await call(`/api/jobs/${job}`, 'GET'));
    if (state === 'done' || !isWanted()) return;
    if (state !== 'waiting' && state !== 'running') {
      throw new Error(`${what} could not be worked out: ${message || state}.`);
    }
    await new Promise((resolve) => setTimeout(resolve, LOOK));
  }
}
