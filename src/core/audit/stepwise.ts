/** Work in short steps, so that a server can respond in between. */
export type Steps<T> = Generator<unknown, T, undefined>;

/** Runs all steps without a pause; `between` may throw to cancel. */
export function atOnce<T>(steps: Steps<T>, between: () => void = () => {}): T {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
    between();
  }
}
