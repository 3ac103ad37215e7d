/** What a stream of octets yields, whose type says no more than that it is a stream. */
export const octetsOf = (stream: AsyncIterable<unknown>): AsyncIterable<Buffer> => stream as AsyncIterable<Buffer>;
