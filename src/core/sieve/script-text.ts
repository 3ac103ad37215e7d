import { type Diagnostic, diagnostic } from './diagnostics';
import { print } from './print';
import { readXml } from './xml';

export type ScriptText =
  | { readonly ok: true; readonly source: string }
  /** XML that is none, or is no script; line and column are counted from 1. */
  | { readonly ok: false; readonly line: number; readonly column: number; readonly message: string };

/** Whether a text is Sieve in XML (RFC 5784): no plain script can start like this. */
export const isXml = (text: string): boolean => /^\s*<(\?xml|!--|([\w-]+:)?sieve\b)/.test(text);

/** The plain script of a text: itself, or converted from XML. */
export function scriptText(text: string): ScriptText {
  if (!isXml(text)) return { ok: true, source: text };
  const read = readXml(text);
  return read.ok ? { ok: true, source: print(read.script) } : read;
}

/**
 * The text of a script file (UTF-8, RFC 5228 section 2.1; a byte order mark is removed). Octets that are not UTF-8 are
 * reported and become U+FFFD, so that the rest can be read.
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
