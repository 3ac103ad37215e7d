/** The chunks of a stream of octets, whose type is untyped in the library. */
export const octetsOf = (stream: AsyncIterable<unknown>): AsyncIterable<Buffer> => stream as AsyncIterable<Buffer>;

/** The error code of the system or a library, such as `ENOSPC`; empty if there is none. */
export const codeOf = (error: unknown): string =>
  error instanceof Error && 'code' in error && typeof error.code === 'string' ? error.code : '';
