import { type Diagnostic, diagnostic } from './diagnostics';

/**
 * The text of a script file (UTF-8, RFC 5228 section 2.1; a byte order mark is dropped). Octets that are no UTF-8 are
 * told and become U+FFFD, so that the rest can be read.
 */
export function decodeScript(bytes: Uint8Array): { source: string; diagnostics: Diagnostic[] } {
  try {
    return { source: new TextDecoder('utf-8', { fatal: true }).decode(bytes), diagnostics: [] };
  } catch {
    const source = new TextDecoder('utf-8').decode(bytes);
    const start = source.indexOf('\ufffd');
    const byte = new TextEncoder().encode(source.slice(0, start)).length;
    const fault = diagnostic('not-utf8', { start, end: start + 1 }, { byte: String(byte + 1) });
    return { source, diagnostics: [fault] };
  }
}
