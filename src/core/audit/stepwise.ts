/** Work in short steps, so that a server can answer between them. */
export type Steps<T> = Generator<unknown, T, undefined>;

/** All steps, one directly after the other; `between` may throw to cancel. */
export function atOnce<T>(steps: Steps<T>, between: () => void = () => {}): T {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
    between();
  }
}
