const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const fallback = new TextDecoder('windows-1252');

/** Text of unknown encoding: UTF-8 where it is well-formed (RFC 6532), else one character per octet. NUL is dropped. */
export function decodeText(bytes: Uint8Array): string {
  let text: string;
  try {
    text = strict.decode(bytes);
  } catch {
    text = fallback.decode(bytes);
  }
  return text.includes('\0') ? text.replaceAll('\0', '') : text;
}

const decoders = new Map<string, TextDecoder | null>();

/** Text in a named charset, or null where the charset is not known; malformed octets become U+FFFD. */
export function maybeDecode(bytes: Uint8Array, charset: string): string | null {
  const label = charset.trim().toLowerCase();
  let decoder = decoders.get(label);
  if (decoder === undefined) {
    try {
      decoder = new TextDecoder(label);
    } catch {
      decoder = null;
    }
    // Labels come from hostile mail: the memory of them stays small.
    if (decoders.size < 200) decoders.set(label, decoder);
  }
  return decoder?.decode(bytes) ?? null;
}
