import type { Steps } from '../../core/audit/stepwise';

/** All steps, with whatever else is waiting done in between. */
export async function betweenOthers<T>(steps: Steps<T>): Promise<T> {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
    await new Promise((resolve) => setImmediate(resolve));
  }
}

/** Milliseconds between two looks at whether to go on waiting. */
const WATCHED = 50;

/** What another thread works out; `checkpoint` may throw to end the waiting. */
export async function watched<T>(awaited: Promise<T>, checkpoint: () => void): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const ended = new Promise<never>((_, failed) => {
    timer = setInterval(() => {
      try {
        checkpoint();
      } catch (error) {
        failed(error);
      }
    }, WATCHED);
  });
  try {
    return await Promise.race([awaited, ended]);
  } finally {
    clearInterval(timer);
  }
}
