import { createSign, generateKeyPairSync } from 'node:crypto';

/** A certificate that vouches for itself, and its key, both as PEM. */
export interface SelfSigned {
  readonly cert: string;
  readonly key: string;
}

/** Makes a certificate for a name, of version 3 (RFC 5280 section 4.1), signed by itself with ECDSA and SHA-256 (RFC 5758 section 3.2). */
export function selfSigned(name: string, now: number): SelfSigned {
  const { publicKey, privateKey } = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  const subject = sequence(set(sequence(oid('2.5.4.3'), utf8(name))));
  const day = 86_400_000;
  const body = sequence(
    tagged(0xa0, integer(2)),
    integer(now % 2 ** 31),
    ECDSA,
    subject,
    sequence(time(now - day), time(now + 365 * day)),
    subject,
    publicKey.export({ type: 'spki', format: 'der' }),
    // The names that it vouches for (RFC 5280 section 4.2.1.6).
    tagged(0xa3, sequence(sequence(oid('2.5.29.17'), octets(sequence(tagged(0x82, Buffer.from(name, 'latin1'))))))),
  );
  const signature = createSign('sha256').update(body).sign(privateKey);
  const der = sequence(body, ECDSA, tagged(0x03, Buffer.concat([Buffer.from([0]), signature])));
  const lines = der.toString('base64').replace(/(.{64})/g, '$1\n');
  return {
    cert: `-----BEGIN CERTIFICATE-----\n${lines}\n-----END CERTIFICATE-----\n`,
    key: privateKey.export({ type: 'pkcs8', format: 'pem' }) as string,
  };
}

/** Distinguished encoding (X.690): a tag, a length, the contents. */
function tagged(tag: number, contents: Buffer): Buffer {
  const { length } = contents;
  const long = [length >> 16, (length >> 8) & 255, length & 255].slice(length > 65_535 ? 0 : 1);
  const size = length < 128 ? [length] : length < 256 ? [0x81, length] : [0x80 + long.length, ...long];
  return Buffer.concat([Buffer.from([tag, ...size]), contents]);
}

const sequence = (...parts: readonly Buffer[]): Buffer => tagged(0x30, Buffer.concat(parts));
const set = (...parts: readonly Buffer[]): Buffer => tagged(0x31, Buffer.concat(parts));
const utf8 = (text: string): Buffer => tagged(0x0c, Buffer.from(text, 'utf8'));
const octets = (contents: Buffer): Buffer => tagged(0x04, contents);

function integer(value: number): Buffer {
  const hex = value.toString(16);
  const contents = Buffer.from(hex.length % 2 === 0 ? hex : `0${hex}`, 'hex');
  // The first bit is the sign.
  return tagged(0x02, (contents[0] as number) > 127 ? Buffer.concat([Buffer.from([0]), contents]) : contents);
}

/** UTCTime: two digits of the year (RFC 5280 section 4.1.2.5.1), good until 2049. */
function time(at: number): Buffer {
  const digits = new Date(at).toISOString().replace(/[-:T]/g, '').slice(2, 14);
  return tagged(0x17, Buffer.from(`${digits}Z`, 'latin1'));
}

function oid(text: string): Buffer {
  const [first = 0, second = 0, ...rest] = text.split('.').map(Number);
  const numbers = [first * 40 + second, ...rest].flatMap((number) => {
    const digits = [number & 127];
    for (let left = number >> 7; left > 0; left >>= 7) digits.unshift((left & 127) | 128);
    return digits;
  });
  return tagged(0x06, Buffer.from(numbers));
}

const ECDSA = sequence(oid('1.2.840.10045.4.3.2'));
