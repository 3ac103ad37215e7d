import { asBuffer } from '../text/octets';

/**
 * What programs that store mail write into a message of their own accord (common practice for mbox files, from memory of
 * their formats): the fields of flags, of its number and of its length.
 */
const STORED_WITH = new Set([
  'x-status',
  'status',
  'x-keywords',
  'x-uid',
  'x-imap',
  'x-imapbase',
  'content-length',
  'lines',
]);

/** How these names begin: hardly any other field begins so. */
const BEGINNINGS = new Set(Array.from(STORED_WITH, (name) => beginning(Buffer.from(name), 0)));

/** Three octets as one number, letters in lower case. */
function beginning(octets: Uint8Array, start: number): number {
  const three = ((octets[start] ?? 0) << 16) | ((octets[start + 1] ?? 0) << 8) | (octets[start + 2] ?? 0);
  return three | 0x202020;
}

const LF = 10;
const CR = 13;
/** No name of such a field is longer, with its colon. */
const LONGEST = 16;

/**
 * The octets by which a message is the same as the one that another program stored: its lines end with LF, and its header
 * has no field that was written when it was stored. The message itself if that is so already.
 */
export function withoutStorage(raw: Uint8Array): Uint8Array {
  const plain = raw.includes(CR) ? withoutCr(raw) : raw;
  const kept: Uint8Array[] = [];
  let copied = 0;
  let start = 0;
  while (start < plain.length && plain[start] !== LF) {
    const end = fieldEnd(plain, start);
    if (isStoredWith(plain, start, end)) {
      kept.push(plain.subarray(copied, start));
      copied = end;
    }
    start = end;
  }
  return kept.length === 0 ? plain : Buffer.concat([...kept, plain.subarray(copied)]);
}

function isStoredWith(plain: Uint8Array, start: number, end: number): boolean {
  if (!BEGINNINGS.has(beginning(plain, start))) return false;
  const head = asBuffer(plain).toString('latin1', start, Math.min(end, start + LONGEST));
  const colon = head.indexOf(':');
  return colon > 0 && STORED_WITH.has(head.slice(0, colon).toLowerCase());
}

/** Where the next field starts: lines that begin with white space continue the one before (RFC 5322 section 2.2.3). */
function fieldEnd(plain: Uint8Array, start: number): number {
  for (let end = plain.indexOf(LF, start); end >= 0; end = plain.indexOf(LF, end + 1)) {
    if (plain[end + 1] !== 32 && plain[end + 1] !== 9) return end + 1;
  }
  return plain.length;
}

function withoutCr(raw: Uint8Array): Uint8Array {
  const plain = new Uint8Array(raw.length);
  let length = 0;
  let from = 0;
  for (let at = raw.indexOf(CR); at >= 0; at = raw.indexOf(CR, at + 1)) {
    if (raw[at + 1] !== LF) continue;
    plain.set(raw.subarray(from, at), length);
    length += at - from;
    from = at + 1;
  }
  plain.set(raw.subarray(from), length);
  return plain.subarray(0, length + raw.length - from);
}
