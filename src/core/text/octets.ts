import { elementAt } from './lookup';
/** One array of octets out of several; the same array where there is only one. */
export function joinOctets(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return elementAt(parts, 0);
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** The same octets as a buffer, without a copy. */
export const asBuffer = (octets: Uint8Array): Buffer =>
  Buffer.from(octets.buffer, octets.byteOffset, octets.byteLength);

/** A copy to be kept: a part of a text keeps all of it in memory, here a whole header. */
export const detached = (text: string): string => Buffer.from(text, 'utf16le').toString('utf16le');
