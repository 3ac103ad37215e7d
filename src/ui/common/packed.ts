import { isChainDocument } from '../../files/chain-document';
import { type PlacedFile, tarParts } from './tar';

/** What was dropped, as files to be sent, each under its path. */
export interface Packed {
  /** Scripts and sheets, in the natural order of their paths: 2 comes before 10. */
  readonly rules: readonly File[];
  /** Archives and files by themselves; of each folder all other files, as one archive. */
  readonly others: readonly File[];
}

/**
 * Sorts what was dropped. A folder may hold scripts, sheets, mail and archives side by side. An archive that is made of a folder only
 * refers to its files; they are read when it is sent.
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

/** A message of a Maildir has no ending either, and there may be thousands of them. */
const mayBeRules = (path: string, file: File): boolean =>
  file.size <= SCRIPT && !/(^|\/)(cur|new|tmp)\/[^/]*$/.test(path) && !/\.(eml|mbox|mbx|zip|tar|tgz|gz)$/i.test(path);

/** Octets of a script at the most, and of its beginning that are looked at. */
const SCRIPT = 4 * 1024 * 1024;
const LOOK = 4096;
const MOST_LOOKED = 500;

async function looksLikeRules(file: File): Promise<boolean> {
  const text = await file.slice(0, LOOK).text();
  return isChainDocument(text) || /^\uFEFF?\s*(#|\/\*|(require|if)\b|<\?xml|<script\b)/i.test(text);
}

const named = (file: File, path: string): File => (file.name === path ? file : new File([file], path));

/** A dropped file tells its path in one way, a chosen one in another. */
function pathOf(file: File & { readonly path?: string }): string {
  return file.webkitRelativePath || file.path || file.name;
}
