import { Readable } from 'node:stream';
import { and, eq } from 'drizzle-orm';
import { ZipFile } from 'yazl';
import { writeMboxEntry } from '../../core/mail/mbox';
import { octetsOf } from '../../files/undeclared';
import { getAudit, Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import type { MessageQuery } from '../http/shapes';
import { messagesOf } from './list-view';
import { maybePresent, presentNumbers } from './message-numbers';
import { maybeRaw } from './raw';

/** One stored message, byte for byte. */
export function messageOctets(store: Store, auditId: string, number: number): Buffer {
  const audit = getAudit(store, auditId);
  const isThere = number < audit.messageCount && (maybePresent(store, audit)?.has(number) ?? true);
  const raw = isThere ? maybeRaw(store, auditId, number) : null;
  if (!raw) throw new Refusal('There is no such message.', 404);
  return raw;
}

/**
 * The messages that match a query as an mbox (RFC 4155, with reversible quoting), in order of import, one at a time.
 * Throws a refusal at once if the query cannot be answered.
 */
export function messagesAsMbox(
  store: Store,
  auditId: string,
  query: MessageQuery,
): Generator<Uint8Array, void, undefined> {
  const audit = getAudit(store, auditId);
  const wanted = messagesOf(store, audit, query);
  const numbers = wanted ? wanted.members() : presentNumbers(store, audit);
  return mboxEntries(store, auditId, numbers);
}

/** Messages as entries of an mbox, one at a time. */
export function* mboxEntries(
  store: Store,
  auditId: string,
  numbers: Iterable<number>,
): Generator<Uint8Array, void, undefined> {
  for (const number of numbers) {
    const row = store
      .select({ fromLine: messages.fromLine, date: messages.date })
      .from(messages)
      .where(and(eq(messages.auditId, auditId), eq(messages.number, number)))
      .get();
    const raw = maybeRaw(store, auditId, number);
    if (row && raw) yield writeMboxEntry({ fromLine: row.fromLine ?? separator(row.date ?? 0), raw });
  }
}

/** The messages that match a query as a zip archive of .eml files in their folders. */
export function messagesAsZip(store: Store, auditId: string, query: MessageQuery): Readable {
  const audit = getAudit(store, auditId);
  const wanted = messagesOf(store, audit, query);
  const numbers = wanted ? wanted.members() : presentNumbers(store, audit);
  const archive = new ZipFile();
  for (const number of numbers) {
    const row = store
      .select({ folder: messages.folder })
      .from(messages)
      .where(and(eq(messages.auditId, auditId), eq(messages.number, number)))
      .get();
    const path = `${pathOf(row?.folder ?? '')}/${String(number).padStart(7, '0')}.eml`;
    archive.addReadStreamLazy(path, (done) => done(null, Readable.from([messageOctets(store, auditId, number)])));
  }
  archive.end();
  return Readable.from(octetsOf(archive.outputStream));
}

/** A path within an archive that cannot lead out of it, whatever the folder is called. */
export function pathOf(folder: string): string {
  const parts = folder.split('/').map((part) => {
    // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what no file system takes
    const plain = part.replace(/[\u0000-\u001f\u007f<>:"|?*\\]/g, '_').trim();
    return plain.replace(/^\.+/, (dots) => '_'.repeat(dots.length)).slice(0, 120);
  });
  return parts.filter((part) => part !== '').join('/') || 'unnamed';
}

/** A separator line for a message that came without one; the date is in asctime format, in UTC. */
function separator(time: number): string {
  const date = new Date(time);
  const [weekday = '', day = '', month = '', year = ''] = date.toUTCString().replace(',', '').split(' ');
  const clock = date.toISOString().slice(11, 19);
  return `From unknown ${weekday} ${month} ${String(Number(day)).padStart(2)} ${clock} ${year}`;
}
