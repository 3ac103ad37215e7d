import { isKnownCharset } from './charset';
import { charsetsIn } from './encodedwords';
import { isWholeBase64 } from './encodings';
import { type MailMessage, partsOf } from './message';
import { isAtDepthLimit, isOddHtml, type MimePart, transferEncoding, walkParts } from './parts';

/** Irregularities of a message; it is read anyway, as far as the standards allow. */
export type MakingOddity =
  | 'cr-lines'
  | 'utf-16'
  | 'many-fields'
  | 'deep'
  | 'unknown-charset'
  | 'damaged-base64'
  | 'odd-html'
  | 'large';

/** Common practice has far less than these. */
const MANY_FIELDS = 1000;
const LARGE = 25 * 1024 * 1024;
/** Octets that are looked at for how lines end and characters are written. */
const LOOK = 64 * 1024;

const CR = 13;
const LF = 10;

/** The irregularities of a message, from its octets and its parsed form. */
export function makingOddities(raw: Uint8Array, message: MailMessage): MakingOddity[] {
  const head = raw.subarray(0, LOOK);
  const found: MakingOddity[] = [];
  if (head.includes(CR) && !head.includes(LF)) found.push('cr-lines');
  if (isUtf16(head)) found.push('utf-16');
  if (message.fields.length > MANY_FIELDS) found.push('many-fields');
  if (raw.length > LARGE) found.push('large');
  const parts = [...walkParts(partsOf(message))];
  if (parts.some(isAtDepthLimit)) found.push('deep');
  const texts = parts.filter(({ type }) => type.startsWith('text/'));
  const charsets = texts.some(({ parameters }) => isUnknown(parameters.get('charset')));
  if (charsets || message.fields.some(({ raw: written }) => charsetsIn(written).some(isUnknown)))
    found.push('unknown-charset');
  if (parts.some(isDamagedBase64)) found.push('damaged-base64');
  if (texts.some(isOddHtml)) found.push('odd-html');
  return found;
}

/** RFC 2045 section 5.1 leaves charsets open; what no decoder here knows is read as if none were named. */
const isUnknown = (charset: string | undefined): boolean => charset !== undefined && !isKnownCharset(charset);

const isDamagedBase64 = (part: MimePart): boolean =>
  part.children.length === 0 && transferEncoding(part) === 'base64' && !isWholeBase64(part.body);

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
