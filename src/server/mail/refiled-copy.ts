import { Readable } from 'node:stream';
import { eq } from 'drizzle-orm';
import { ZipFile } from 'yazl';
import { storedFlagLetters } from '../../core/mail/places';
import { INBOX } from '../../core/sieve/interpret/fate';
import { octetsOf } from '../../files/undeclared';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import type { RefileScope } from '../http/shapes';
import { mboxEntries, messageOctets, pathOf } from './download';
import { appliedTo } from './refile-plan';

export type MailboxForm = 'mbox' | 'maildir';

/** The folder for mail that would be in none: a copy throws nothing away. */
const NOWHERE = 'Not delivered';

/**
 * A copy of the stored mail, filed by the chain, as a zip archive: an mbox for each folder, or a Maildir. It is
 * streamed, one message at a time.
 */
export function refiledMailbox(store: Store, auditId: string, form: MailboxForm, scope: RefileScope): Readable {
  const audit = getAudit(store, auditId);
  const { after, gone, flags: marks } = appliedTo(store, audit, scope);
  const folders = new Map([...after, [NOWHERE, gone] as const].filter(([, held]) => !held.isEmpty()));
  const flags = form === 'maildir' ? flagsOf(store, auditId) : new Map<number, readonly string[]>();
  const archive = new ZipFile();
  const taken = new Set<string>();
  for (const [folder, held] of folders) {
    const numbers = [...held.members()];
    const name = freeName(pathOf(folder), taken);
    if (form === 'mbox') {
      archive.addReadStreamLazy(`${name}.mbox`, { compress: true }, (done) => {
        done(null, Readable.from(mboxEntries(store, auditId, numbers)));
      });
    } else {
      const root = folder === INBOX ? 'Maildir' : `Maildir/.${name.replaceAll('/', '.')}`;
      for (const place of ['new', 'tmp']) archive.addEmptyDirectory(`${root}/${place}`);
      for (const number of numbers) {
        const marked = [...(marks.get(folder) ?? [])].flatMap(([flag, having]) => (having.has(number) ? [flag] : []));
        const letters = storedFlagLetters([...(flags.get(number) ?? []), ...marked]);
        archive.addReadStreamLazy(`${root}/cur/${number}.${audit.id.slice(0, 8)}.refiled:2,${letters}`, (done) => {
          done(null, Readable.from([messageOctets(store, auditId, number)]));
        });
      }
    }
  }
  archive.end();
  return Readable.from(octetsOf(archive.outputStream));
}

/** The flags of all messages. */
function flagsOf(store: Store, auditId: string): Map<number, readonly string[]> {
  const rows = store
    .select({ number: messages.number, flags: messages.flags })
    .from(messages)
    .where(eq(messages.auditId, auditId))
    .all();
  return new Map(rows.map(({ number, flags }) => [number, flags]));
}

/** Two folders may coincide once their names are made safe, or on a file system that ignores case. */
function freeName(name: string, taken: Set<string>): string {
  for (let at = 1; ; at++) {
    const candidate = at === 1 ? name : `${name} ${at}`;
    if (taken.has(candidate.toLowerCase())) continue;
    taken.add(candidate.toLowerCase());
    return candidate;
  }
}
