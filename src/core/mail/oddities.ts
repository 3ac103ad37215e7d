import { maybeDecode } from './charset';
import { type MailMessage, partsOf } from './message';
import { isAtDepthLimit, walkParts } from './parts';

/** What may be odd about how a message is made; it is read all the same, as far as the standards allow. */
export type MakingOddity = 'cr-lines' | 'utf-16' | 'many-fields' | 'deep' | 'unknown-charset' | 'large';

/** Common practice has far less than these. */
const MANY_FIELDS = 1000;
const LARGE = 25 * 1024 * 1024;
/** Octets that are looked at for how lines end and characters are written. */
const LOOK = 64 * 1024;

const CR = 13;
const LF = 10;

/** What is odd about a message, from its octets and from what was read of it. */
export function makingOddities(raw: Uint8Array, message: MailMessage): MakingOddity[] {
  const head = raw.subarray(0, LOOK);
  const found: MakingOddity[] = [];
  if (head.includes(CR) && !head.includes(LF)) found.push('cr-lines');
  if (isUtf16(head)) found.push('utf-16');
  if (message.fields.length > MANY_FIELDS) found.push('many-fields');
  if (raw.length > LARGE) found.push('large');
  let [deep, unknown] = [false, false];
  for (const part of walkParts(partsOf(message))) {
    deep ||= isAtDepthLimit(part);
    unknown ||= part.type.startsWith('text/') && isUnknown(part.parameters.get('charset'));
  }
  if (deep) found.push('deep');
  if (unknown) found.push('unknown-charset');
  return found;
}

/** RFC 2045 section 5.1 leaves charsets open; what no decoder here knows is read as if none were named. */
const isUnknown = (charset: string | undefined): boolean =>
  charset !== undefined && maybeDecode(new Uint8Array(0), charset) === null;

/** RFC 5322 has octets of US-ASCII: with a mark of UTF-16, or a zero in every second octet, it is no such message. */
function isUtf16(head: Uint8Array): boolean {
  const [first, second] = head;
  if ((first === 0xff && second === 0xfe) || (first === 0xfe && second === 0xff)) return true;
  if (head.length < 8) return false;
  for (const start of [0, 1]) {
    let zeros = 0;
    for (let at = start; at < 64 && at < head.length; at += 2) if (head[at] === 0) zeros++;
    if (zeros >= Math.min(32, Math.floor(head.length / 2)) - 1) return true;
  }
  return false;
}
