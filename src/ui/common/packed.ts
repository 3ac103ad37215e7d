import { isChainDocument } from '../../files/chain-document';

/** Dropped files, ready to be uploaded, each with its path. */
export interface Packed {
  /** Rules in natural order of their paths: 2 comes before 10. */
  readonly rules: readonly File[];
  /** Archives and files alone; of each folder, all other files as one archive. */
  readonly others: readonly File[];
}

/**
 * Sorts dropped files. A folder may contain scripts, sheets, mail and archives together. An archive made from a folder
 * only references its files; they are read during the upload.
 */
export async function packed(files: readonly File[]): Promise<Packed> {
  const rules: File[] = [];
  const others: File[] = [];
  const folders = new Map<string, PlacedFile[]>();
  let looked = 0;
  for (const file of files) {
    const parts = pathOf(file)
      .split('/')
      .filter((part) => part !== '' && part !== '.');
    const [top, ...inner] = parts;
    const path = parts.join('/');
    const inFolder = top !== undefined && inner.length > 0;
    if (RULES.test(path) || (mayBeRules(path, file) && looked++ < MOST_LOOKED && (await looksLikeRules(file)))) {
      rules.push(named(file, path));
    } else if (!inFolder) others.push(file);
    else if (ARCHIVE.test(path)) others.push(named(file, path));
    else {
      const placed = folders.get(top) ?? [];
      placed.push({ path: inner.join('/'), file });
      folders.set(top, placed);
    }
  }
  const archives = Array.from(folders, ([name, placed]) => new File(tarParts(placed), `${name}.tar`));
  return { rules: rules.sort((a, b) => NATURAL.compare(a.name, b.name)), others: [...others, ...archives] };
}

const RULES = /\.(sieve|siv|sv|csv|tsv)$/i;
const ARCHIVE = /\.(zip|tar|tgz|gz)$/i;
const NATURAL = new Intl.Collator('en', { numeric: true });

/** Messages of a Maildir have no extension either, and there may be thousands. */
const mayBeRules = (path: string, file: File): boolean =>
  file.size <= SCRIPT && !/(^|\/)(cur|new|tmp)\/[^/]*$/.test(path) && !/\.(eml|mbox|mbx|zip|tar|tgz|gz)$/i.test(path);

/** Most octets of a script, and octets of its beginning that are read. */
const SCRIPT = 4 * 1024 * 1024;
const LOOK = 4096;
const MOST_LOOKED = 500;

async function looksLikeRules(file: File): Promise<boolean> {
  const text = await file.slice(0, LOOK).text();
  return isChainDocument(text) || /^\uFEFF?\s*(#|\/\*|(require|if)\b|<\?xml|<script\b)/i.test(text);
}

const named = (file: File, path: string): File => (file.name === path ? file : new File([file], path));

/** Dropped and chosen files give their paths in different ways. */
function pathOf(file: File & { readonly path?: string }): string {
  return file.webkitRelativePath || file.path || file.name;
}

/** A file within a folder that was dropped, with its path from there on. */
export interface PlacedFile {
  readonly path: string;
  readonly file: File;
}

const BLOCK = 512;

/** A tar archive (IEEE Std 1003.1, pax) of files, as the parts of a blob. */
export function tarParts(files: readonly PlacedFile[]): (Uint8Array<ArrayBuffer> | File)[] {
  const parts: (Uint8Array<ArrayBuffer> | File)[] = [];
  for (const { path, file } of files) {
    // Long and non-ASCII names need a header of their own.
    const record = paxRecord('path', path);
    parts.push(header('path', record.length, 'x'), record, padding(record.length));
    parts.push(header('file', file.size, '0'), file, padding(file.size));
  }
  parts.push(new Uint8Array(2 * BLOCK));
  return parts;
}

/** `LENGTH KEY=VALUE`, where the length counts its own digits. */
function paxRecord(key: string, value: string): Uint8Array<ArrayBuffer> {
  const rest = new TextEncoder().encode(` ${key}=${value}\n`);
  let length = rest.length;
  while (String(length).length + rest.length !== length) length = String(length).length + rest.length;
  return new TextEncoder().encode(`${length} ${key}=${value}\n`);
}

const padding = (length: number): Uint8Array<ArrayBuffer> => new Uint8Array((BLOCK - (length % BLOCK)) % BLOCK);

function header(name: string, size: number, type: string): Uint8Array<ArrayBuffer> {
  const block = new Uint8Array(BLOCK);
  const put = (text: string, at: number) => block.set(new TextEncoder().encode(text), at);
  put(name, 0);
  put('0000644\0', 100);
  put('0000000\0', 108);
  put('0000000\0', 116);
  put(`${size.toString(8).padStart(11, '0')}\0`, 124);
  put('00000000000\0', 136);
  put('        ', 148);
  put(type, 156);
  put('ustar\x0000', 257);
  const sum = block.reduce((total, octet) => total + octet, 0);
  put(`${sum.toString(8).padStart(6, '0')}\0 `, 148);
  return block;
}
