/** What a stream of octets yields, whose type says no more than that it is a stream. */
export const octetsOf = (stream: AsyncIterable<unknown>): AsyncIterable<Buffer> => stream as AsyncIterable<Buffer>;

/** The code by which the system or a library names an error, such as `ENOSPC`; empty where it has none. */
export const codeOf = (error: unknown): string =>
  error instanceof Error && 'code' in error && typeof error.code === 'string' ? error.code : '';
