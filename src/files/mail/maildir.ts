import { mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { storedFlagLetters } from '../../core/mail/places';
import { KEYWORDS_FILE, keywordsOf, letterFor, writtenKeywords } from './keywords';

/** A message in a Maildir that was fetched from a server: its name tells where it is there. */
export interface FetchedFile {
  readonly name: string;
  /** The UIDVALIDITY of its folder and its UID (RFC 9051 section 2.3.1.1). */
  readonly validity: string;
  readonly uid: number;
}

export interface FetchedMessage {
  readonly uid: number;
  readonly flags: readonly string[];
  readonly raw: Uint8Array;
  /** When it arrived, in milliseconds since 1970; null if unknown. */
  readonly received: number | null;
}

const NAME = /^\d+\.V(\d+)U(\d+)\.imap:2,[A-Za-z]*$/;
/** Octets of a name that all file systems in use accept, with room for what is added to it. */
const LONGEST = 200;

/** Whether the names of a folder can be names of folders here, and are read as the same names again. */
export const isStorable = (names: readonly string[]): boolean =>
  names.length > 0 &&
  names.every(
    (name) =>
      name.trim() !== '' &&
      // What a server sends may lead elsewhere, or be read as something else.
      !/^\.|[/\\\p{Cc}]|^(cur|new|tmp|maildir)$|\.(mbox|mbx|sbd)$/iu.test(name) &&
      Buffer.byteLength(name, 'utf8') <= LONGEST,
  );

/** One folder of fetched mail, as a Maildir (common practice). A process that is killed leaves whole messages only. */
export class FetchedFolder {
  private constructor(
    readonly path: string,
    readonly keywords: Map<string, string>,
  ) {}

  /** `names` are those of the folder from the outermost inwards; see `isStorable`. */
  static async at(root: string, names: readonly string[]): Promise<FetchedFolder> {
    if (!isStorable(names)) throw new Error('a folder with such a name cannot be stored');
    const path = join(root, ...names);
    for (const part of ['cur', 'new', 'tmp']) await mkdir(join(path, part), { recursive: true });
    return new FetchedFolder(path, await keywordsOf(path));
  }

  /** The names of all folders in which fetched mail is stored. */
  static async within(root: string): Promise<string[][]> {
    const entries = await readdir(root, { recursive: true, withFileTypes: true });
    const maildirs = entries.filter((entry) => entry.isDirectory() && entry.name === 'cur');
    return maildirs.map(({ parentPath }) => relative(root, parentPath).split(sep)).filter(isStorable);
  }

  async files(): Promise<FetchedFile[]> {
    const names = await readdir(join(this.path, 'cur'));
    return names.flatMap((name) => {
      const [, validity, uid] = NAME.exec(name) ?? [];
      return validity === undefined || uid === undefined ? [] : [{ name, validity, uid: Number(uid) }];
    });
  }

  async add(validity: string, { uid, flags, raw, received }: FetchedMessage): Promise<void> {
    const seconds = received === null ? 0 : Math.max(0, Math.floor(received / 1000));
    const stem = `${seconds}.V${validity}U${uid}.imap`;
    const unfinished = join(this.path, 'tmp', stem);
    await writeFile(unfinished, raw);
    await rename(unfinished, join(this.path, 'cur', `${stem}:2,${await this.#letters(flags)}`));
  }

  /** Returns whether the flags were others before. */
  async setFlags({ name }: FetchedFile, flags: readonly string[]): Promise<boolean> {
    const made = name.replace(/:2,.*$/, `:2,${await this.#letters(flags)}`);
    if (made === name) return false;
    await rename(join(this.path, 'cur', name), join(this.path, 'cur', made));
    return true;
  }

  async remove({ name }: FetchedFile): Promise<void> {
    await rm(join(this.path, 'cur', name), { force: true });
  }

  /** Keywords get a letter when they are first met, which is stored before any message has it. */
  async #letters(flags: readonly string[]): Promise<string> {
    const before = this.keywords.size;
    const named = flags.filter((flag) => !flag.startsWith('\\') && storedFlagLetters([flag]) === '');
    const letters = named.flatMap((keyword) => letterFor(keyword, this.keywords) ?? []);
    if (this.keywords.size > before) {
      const unfinished = join(this.path, 'tmp', KEYWORDS_FILE);
      await writeFile(unfinished, writtenKeywords(this.keywords));
      await rename(unfinished, join(this.path, KEYWORDS_FILE));
    }
    return storedFlagLetters(flags) + letters.sort().join('');
  }
}
