import { elementAt } from '../text/lookup';
import { detached } from '../text/octets';
import { maybeDecode } from './charset';

export interface Parameters {
  readonly value: string;
  readonly parameters: ReadonlyMap<string, string>;
}

/** Those read lately, by their text: most are in many messages. */
const recent = new Map<string, Parameters>();
const MOST_RECENT = 1000;
const LONGEST_RECENT = 200;

/** `value; name=value; ...` of Content-Type and Content-Disposition (RFC 2045 section 5.1, RFC 2231 sections 3 and 4). */
export function parseParameters(text: string): Parameters {
  const known = recent.get(text);
  if (known) return known;
  if (text.length > LONGEST_RECENT) return readParameters(text);
  const own = detached(text);
  const read = readParameters(own);
  if (recent.size >= MOST_RECENT) recent.clear();
  recent.set(own, read);
  return read;
}

function readParameters(text: string): Parameters {
  const [first = '', ...rest] = splitOutsideQuotes(text);
  const parameters = new Map<string, string>();
  const continued = new Map<string, { index: number; text: string; encoded: boolean }[]>();
  for (const part of rest) {
    const at = part.indexOf('=');
    if (at < 0) continue;
    const name = part.slice(0, at).trim().toLowerCase();
    const value = unquoted(part.slice(at + 1).trim());
    // name*0*=utf-8''a%20; name*1=b
    const pieces = /^([^*]+)(?:\*(\d{1,4}))?(\*)?$/.exec(name);
    if (!pieces) continue;
    const base = elementAt(pieces, 1);
    if (pieces[2] === undefined && !pieces[3]) {
      if (!parameters.has(base)) parameters.set(base, value);
      continue;
    }
    const list = continued.get(base) ?? [];
    list.push({ index: Number(pieces[2] ?? 0), text: value, encoded: pieces[3] === '*' });
    continued.set(base, list);
  }
  for (const [name, list] of continued) parameters.set(name, joinContinued(list));
  return { value: withoutComments(first).trim(), parameters };
}

function joinContinued(list: { index: number; text: string; encoded: boolean }[]): string {
  list.sort((a, b) => a.index - b.index);
  const charset = list[0]?.encoded ? (/^([^']*)'[^']*'/.exec(list[0].text)?.[1] ?? '') : '';
  const octets: number[] = [];
  for (const [index, { text, encoded }] of list.entries()) {
    const words = encoded && index === 0 ? text.replace(/^[^']*'[^']*'/, '') : text;
    for (let at = 0; at < words.length; at++) {
      const pair = words.slice(at + 1, at + 3);
      if (encoded && words[at] === '%' && /^[0-9a-f]{2}$/i.test(pair)) {
        octets.push(Number.parseInt(pair, 16));
        at += 2;
      } else for (const octet of new TextEncoder().encode(words[at])) octets.push(octet);
    }
  }
  return maybeDecode(Uint8Array.from(octets), charset || 'utf-8') ?? new TextDecoder().decode(Uint8Array.from(octets));
}

function splitOutsideQuotes(text: string): string[] {
  return text.match(/(?:"(?:\\.|[^"\\])*"?|[^;"])+/g) ?? [''];
}

function unquoted(value: string): string {
  if (!value.startsWith('"')) return withoutComments(value).trim();
  return value.slice(1, value.endsWith('"') && value.length > 1 ? -1 : undefined).replace(/\\(.)/g, '$1');
}

const withoutComments = (value: string): string => value.replace(/\([^()]*\)/g, '');
