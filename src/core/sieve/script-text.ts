import { print } from './print';
import { readXml } from './xml';

export type ScriptText =
  | { readonly ok: true; readonly source: string }
  /** XML that is none, or is no script; line and column are counted from 1. */
  | { readonly ok: false; readonly line: number; readonly column: number; readonly message: string };

/** Whether a text is meant as Sieve in XML (RFC 5784): no script in plain form can begin so. */
export const isXml = (text: string): boolean => /^\s*<(\?xml|!--|([\w-]+:)?sieve\b)/.test(text);

/** The script that a text stands for: itself, or what its XML says. */
export function scriptText(text: string): ScriptText {
  if (!isXml(text)) return { ok: true, source: text };
  const read = readXml(text);
  return read.ok ? { ok: true, source: print(read.script) } : read;
}
