import type { Steps } from '../core/audit/stepwise';

/** All steps, with whatever else is waiting done in between. */
export async function betweenOthers<T>(steps: Steps<T>): Promise<T> {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
    await new Promise((resolve) => setImmediate(resolve));
  }
}
