import { elementAt } from '../text/lookup';

const SIX_BITS = new Int8Array(128).fill(-1);
for (const [value, character] of Array.from(
  'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/',
).entries()) {
  SIX_BITS[character.charCodeAt(0)] = value;
}

/** Decodes base64: skips other characters and tolerates missing padding (RFC 2045 section 6.8). */
export function fromBase64(encoded: Uint8Array): Uint8Array {
  const octets = new Uint8Array(Math.ceil((encoded.length * 3) / 4));
  let length = 0;
  let bits = 0;
  let held = 0;
  for (let at = 0; at < encoded.length; at++) {
    const six = SIX_BITS[elementAt(encoded, at)] ?? -1;
    if (six < 0) continue;
    held = ((held << 6) | six) & 0xffffff;
    bits += 6;
    if (bits >= 8) {
      bits -= 8;
      octets[length++] = (held >> bits) & 0xff;
    }
  }
  return octets.subarray(0, length);
}

const PAD = 61;
const BLANK = 0;
const CHARACTER = 1;
const OTHER = 4;
/** What each octet is to base64. */
const KINDS = Uint8Array.from({ length: 256 }, (_, octet) => {
  if ([32, 9, 13, 10].includes(octet)) return BLANK;
  return (SIX_BITS[octet] ?? -1) >= 0 ? CHARACTER : OTHER;
});
const NO_PAIRS = new Uint16Array(0);
let pairKinds: Uint8Array | null = null;

/** The same for two octets: how many characters, and whether one is anything else. Made when first asked for. */
function kindsOfPairs(): Uint8Array {
  pairKinds ??= Uint8Array.from({ length: 65536 }, (_, pair) => {
    const [one, other] = [KINDS[pair & 255] ?? OTHER, KINDS[pair >> 8] ?? OTHER];
    return ((one | other) & OTHER) | ((one & CHARACTER) + (other & CHARACTER));
  });
  return pairKinds;
}

/**
 * Whether the text is strict base64: only its alphabet and white space, nothing after the padding, and a whole number
 * of octets (RFC 2045 section 6.8).
 */
export function isWholeBase64(encoded: Uint8Array): boolean {
  const padding = encoded.indexOf(PAD);
  const end = padding < 0 ? encoded.length : padding;
  // Attachments have millions of characters, so they are looked at eight by eight.
  const start = Math.min(end, encoded.byteOffset % 2);
  const pairs = end > 1 ? new Uint16Array(encoded.buffer, encoded.byteOffset + start, (end - start) >> 1) : NO_PAIRS;
  const four = pairs.length & ~3;
  const single = start + 2 * four;
  const ofPairs = kindsOfPairs();
  let kinds = 0;
  let characters = 0;
  // Where anything else is found, the count no longer matters.
  for (let at = 0; at < four; at += 4) {
    const a = ofPairs[pairs[at] ?? 0] ?? OTHER;
    const b = ofPairs[pairs[at + 1] ?? 0] ?? OTHER;
    const c = ofPairs[pairs[at + 2] ?? 0] ?? OTHER;
    const d = ofPairs[pairs[at + 3] ?? 0] ?? OTHER;
    kinds |= a | b | c | d;
    characters += a + b + c + d;
  }
  for (const octet of [...encoded.subarray(0, start), ...encoded.subarray(single, end)]) {
    const kind = KINDS[octet] ?? OTHER;
    kinds |= kind;
    characters += kind & ~OTHER;
  }
  for (let at = end; at < encoded.length; at++) {
    if (encoded[at] !== PAD && KINDS[encoded[at] ?? 0] !== BLANK) return false;
  }
  return (kinds & OTHER) === 0 && characters % 4 !== 1;
}

const isHex = (octet: number | undefined): boolean =>
  octet !== undefined && /[0-9A-Fa-f]/.test(String.fromCharCode(octet));

/**
 * Decodes quoted-printable (RFC 2045 section 6.7); malformed sequences are kept literally, blanks at line ends are
 * removed.
 */
export function fromQuotedPrintable(body: Uint8Array): Uint8Array {
  const octets = new Uint8Array(body.length);
  let length = 0;
  for (let at = 0; at < body.length; at++) {
    const octet = elementAt(body, at);
    if (octet === 61) {
      const lineEnd = body[at + 1] === 10 ? 1 : body[at + 1] === 13 && body[at + 2] === 10 ? 2 : 0;
      if (lineEnd > 0) {
        at += lineEnd;
        continue;
      }
      if (isHex(body[at + 1]) && isHex(body[at + 2])) {
        octets[length++] = Number.parseInt(String.fromCharCode(elementAt(body, at + 1), elementAt(body, at + 2)), 16);
        at += 2;
        continue;
      }
    }
    if (octet === 10) length = withoutBlanks(octets, length);
    octets[length++] = octet;
  }
  return octets.subarray(0, length);
}

/** The length without blanks at the end, even before a CR. */
function withoutBlanks(octets: Uint8Array, length: number): number {
  const crlf = octets[length - 1] === 13;
  let end = crlf ? length - 1 : length;
  while (end > 0 && (octets[end - 1] === 32 || octets[end - 1] === 9)) end--;
  if (crlf) octets[end++] = 13;
  return end;
}
