import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { dirname, join, relative, sep } from 'node:path';
import { readHeaders } from '../../core/mail/headers';
import { splitMbox } from '../../core/mail/mbox';
import { readMessage } from '../../core/mail/message';
import { isSentFolder } from '../../core/mail/places';
import { receivedOf, storedFlags, summaryOf } from '../../core/mail/summary';
import type { StandInFolder, StandInMessage } from '../../standins/imap';
import { databaseFile } from '../database/open';

/** An empty file that says that the later mail has arrived: it must not vanish when the server starts again. */
const ARRIVED = 'arrived';

/** The mailbox of the demo's coordinator, from the files that the seeding wrote; some mail arrives after it was fetched. */
export class DemoMailbox {
  readonly #root = join(dirname(databaseFile()), 'demo');
  #first: Promise<StandInFolder[]> | null = null;

  /** More mail arrives, a message is deleted, and others are read. */
  arrive(): void {
    if (existsSync(join(this.#root, 'later'))) writeFileSync(join(this.#root, 'later', ARRIVED), '');
  }

  /** The rules of the demo, as a script that is not in use. */
  scripts(): { readonly name: string; readonly text: string; readonly active: boolean }[] {
    const file = join(this.#root, 'rules.sieve');
    return existsSync(file) ? [{ name: 'eight years', text: readFileSync(file, 'utf8'), active: false }] : [];
  }

  async folders(): Promise<StandInFolder[]> {
    this.#first ??= foldersIn(join(this.#root, 'mail'));
    const first = await this.#first;
    if (!existsSync(join(this.#root, 'later', ARRIVED))) return first;
    const later = await foldersIn(join(this.#root, 'later'));
    const names = [...new Set([...first, ...later].map(({ name }) => name))];
    return names.map((name) => {
      const before = first.find((folder) => folder.name === name);
      const messages = (before?.messages ?? []).filter(({ uid }) => name !== 'INBOX' || uid !== DELETED);
      const last = before?.messages.at(-1)?.uid ?? 0;
      const more = later.find((folder) => folder.name === name)?.messages ?? [];
      const arrived = more.map((message) => ({ ...message, uid: message.uid + last, flags: [] }));
      return { name, use: purposeOf(name), messages: [...messages.map(readLater), ...arrived] };
    });
  }
}

/** The message of the inbox that is deleted. */
const DELETED = 7;
/** Every so many messages one is read. */
const READ = 50;

const readLater = (message: StandInMessage): StandInMessage =>
  message.uid % READ > 0 || message.flags.includes('\\seen')
    ? message
    : { ...message, flags: [...message.flags, '\\seen'] };

const purposeOf = (folder: string): string | null => (isSentFolder(folder) ? '\\Sent' : null);

async function foldersIn(root: string): Promise<StandInFolder[]> {
  const entries = await readdir(root, { recursive: true, withFileTypes: true }).catch(() => []);
  const files = entries.filter((entry) => entry.isFile() && entry.name.endsWith('.mbox'));
  return files
    .map(({ parentPath, name }): StandInFolder => {
      const path = join(parentPath, name);
      const folder = relative(root, path)
        .replace(/\.mbox$/, '')
        .split(sep)
        .join('/');
      const messages = [...splitMbox(readFileSync(path))].map(({ raw, fromLine }, at) =>
        messageOf(raw, fromLine, at + 1),
      );
      return { name: folder, use: purposeOf(folder), messages };
    })
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** As a server has it: lines end with CRLF, and flags are beside the message. */
function messageOf(raw: Uint8Array, fromLine: string | null, uid: number): StandInMessage {
  const message = readMessage(raw);
  const received = receivedOf(message, fromLine) ?? summaryOf(message).date ?? 0;
  const { bodyStart } = readHeaders(raw);
  const text = Buffer.from(raw).toString('latin1');
  const head = text.slice(0, bodyStart).replace(/^(x-)?status:.*\r?\n/gim, '');
  const octets = Buffer.from((head + text.slice(bodyStart)).replace(/\r?\n/g, '\r\n'), 'latin1');
  return { uid, flags: storedFlags(message), received, raw: octets };
}
