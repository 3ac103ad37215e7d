import { and, eq, inArray } from 'drizzle-orm';
import { atOnce } from '../../core/audit/stepwise';
import { isSame } from '../../core/rules/same';
import { UNPLACED } from '../../files/mail/found';
import { type ImapFolder, ImapMail, type ImapMessage } from '../../imap/mailbox';
import { CertificateFault, ConnectionFault } from '../../net/line';
import { inTransaction, type Store } from '../database/open';
import { DISK_FULL, emptyLog, isDiskFull, makingRoom } from '../database/reserve';
import { audits, messages, sources } from '../database/schema';
import { droppingFrom } from '../gather/mail-sources';
import { oddityStatement } from '../gather/oddities';
import { concludeFetch } from '../mailbox/conclude';
import {
  dropOtherUids,
  dropUids,
  type FetchedRow,
  fetchedFolders,
  type KnownUids,
  keepFetched,
  knownUids,
} from '../mailbox/fetched';
import { type MailServer, mailboxName, maybeMailServer, maybeTrusted } from '../mailbox/servers';
import { watched } from '../threads/thread';
import { Importer, keepHeld, ownAfter, repeatedStatement } from './importer';
import { Cancelled, type JobContext } from './job';
import type { Preparer } from './preparer';

/** What was fetched is kept in pieces of this many messages or octets, whatever happens afterwards. */
const PIECE_MESSAGES = 2000;
const PIECE_OCTETS = 64 * 1024 * 1024;
/** Octets of the largest message that is stored, as of those in files. */
const LARGEST = 150 * 1024 * 1024;
/** Messages whose flags are compared at once. */
const COMPARED = 500;

/**
 * Fetches what is new in the remembered mailbox into a source: messages with unknown UIDs, other flags, and which messages
 * are gone. What ends it early leaves all finished pieces, and the next run goes on from there.
 */
export async function fetchMail(
  store: Store,
  job: JobContext,
  sourceId: string,
  password: string,
  preparer: Preparer,
): Promise<string> {
  const server = maybeMailServer(store, job.auditId);
  const audit = store.select().from(audits).where(eq(audits.id, job.auditId)).get();
  if (!server || !audit) throw new Error('the audit remembers no mailbox');
  const first = audit.messageCount;
  atOnce(droppingFrom(store, audit.id, first));
  store.update(sources).set({ firstMessage: first }).where(eq(sources.id, sourceId)).run();
  const importer = new Importer(store, audit, sourceId, first, preparer, true, job.checkpoint);
  const fetching = new Fetching(store, job, server, importer);
  let trouble = '';
  try {
    const trusted = maybeTrusted(store, audit.id, server);
    const mail = await ImapMail.connect({ ...server, trusted }, { user: server.user, password }, { message: LARGEST });
    try {
      await fetching.run(mail);
      await mail.close();
    } finally {
      mail.drop();
    }
  } catch (error) {
    trouble = troubleOf(error);
    // Messages that arrived whole are stored, unless nobody wants them or there is no room.
    if (error instanceof ConnectionFault) await fetching.settle();
    else makingRoom(() => atOnce(droppingFrom(store, audit.id, first + fetching.settled)));
    emptyLog(store);
  } finally {
    preparer.close();
  }
  return fetching.conclude(trouble);
}

function troubleOf(error: unknown): string {
  if (error instanceof Cancelled) return 'Cancelled. Fetch again to get the rest.';
  if (isDiskFull(error)) return DISK_FULL;
  if (error instanceof CertificateFault || error instanceof ConnectionFault)
    return `${error.message} Fetch again to get the rest.`;
  throw error;
}

/** UIDs that are in a folder no more; a folder without a UIDVALIDITY is gone as a whole. */
interface Vanished {
  readonly path: string;
  readonly validity: string | null;
  readonly uids: readonly number[];
}

function dropVanished(tx: Store, auditId: string, { path, validity, uids }: Vanished): number {
  const dropped = validity === null ? 0 : dropUids(tx, auditId, path, validity, uids);
  return dropped + dropOtherUids(tx, auditId, path, validity);
}

class Fetching {
  /** Messages of the source that are kept whatever happens. */
  settled = 0;
  #flagged = 0;
  /** What is on the server no more. */
  readonly #vanished: Vanished[] = [];
  #octets = 0;
  #tooLarge = 0;
  #done = 0;
  #rows: FetchedRow[] = [];
  #unsettled = 0;
  #total = 0;

  constructor(
    readonly store: Store,
    readonly job: JobContext,
    readonly server: MailServer,
    readonly importer: Importer,
  ) {}

  async run(mail: ImapMail): Promise<void> {
    const there = new Map((await this.#waited(mail.folders())).map((folder) => [folder.path, folder]));
    const wanted = this.server.folders.flatMap((path) => there.get(path) ?? []);
    this.#total = wanted.reduce((sum, folder) => sum + folder.messages, 0);
    for (const folder of wanted) await this.#folder(mail, folder);
    await this.settle();
    // Every server has an inbox (RFC 9051 section 5.1): one that lists none tells nothing of what is gone.
    if (![...there.keys()].some((path) => path.toUpperCase() === 'INBOX')) return;
    for (const path of fetchedFolders(this.store, this.job.auditId)) {
      if (!there.has(path)) this.#vanished.push({ path, validity: null, uids: [] });
    }
  }

  async #folder(mail: ImapMail, folder: ImapFolder): Promise<void> {
    const { path } = folder;
    const { auditId } = this.job;
    const { validity } = await this.#waited(mail.open(path));
    const known = knownUids(this.store, auditId, path, validity);
    const { since } = this.server;
    const found = await this.#waited(mail.uids(since === null ? null : new Date(since)));
    const wanted = found.filter((uid) => !known.has(uid));
    this.#report(found.length - wanted.length);
    const tooLarge = () => {
      this.#tooLarge++;
    };
    const fetched = mail.messages(wanted, tooLarge);
    for (;;) {
      const { done, value } = await this.#waited(fetched.next());
      if (done) break;
      await this.#take(folder, validity, value);
    }
    await this.settle();
    this.#vanished.push({ path, validity, uids: await this.#refreshed(mail, known) });
  }

  async #take({ path }: ImapFolder, validity: string, { uid, raw, flags, received }: ImapMessage): Promise<void> {
    const number = await this.importer.add({
      ...UNPLACED,
      raw,
      flags,
      received,
      fromLine: null,
      offset: 0,
      oddities: [],
      folder: this.#nameOf(path),
      single: true,
      path: `${path}/${uid}`,
      hasAllFlags: true,
    });
    this.#rows.push({ folder: path, validity, uid, number });
    this.#octets += raw.length;
    this.#unsettled += raw.length;
    this.#report(1);
    if (this.#rows.length >= PIECE_MESSAGES || this.#unsettled >= PIECE_OCTETS) await this.settle();
  }

  /** The name of a folder in the audit. */
  #nameOf(path: string): string {
    if (path.toUpperCase() === 'INBOX') return 'INBOX';
    return this.server.renamed[path] ?? path.replace(/\p{Cc}/gu, '\ufffd');
  }

  /** Takes over flags that have changed on the server; returns the UIDs that are there no more. */
  async #refreshed(mail: ImapMail, known: KnownUids): Promise<number[]> {
    const gone = new Set(known.keys());
    const uids = [...known.keys()].sort((a, b) => a - b);
    const answers = mail.flags(uids);
    let waiting: { readonly number: number; readonly flags: readonly string[] }[] = [];
    for (;;) {
      const { done, value } = await this.#waited(answers.next());
      if (done) break;
      gone.delete(value.uid);
      const number = known.get(value.uid);
      if (number !== undefined) waiting.push({ number, flags: value.flags });
      if (waiting.length < COMPARED) continue;
      this.#setFlags(waiting);
      waiting = [];
    }
    this.#setFlags(waiting);
    return [...gone];
  }

  #setFlags(said: readonly { readonly number: number; readonly flags: readonly string[] }[]): void {
    const { auditId } = this.job;
    const among = inArray(
      messages.number,
      said.map(({ number }) => number),
    );
    const rows = this.store
      .select({ number: messages.number, flags: messages.flags })
      .from(messages)
      .where(and(eq(messages.auditId, auditId), among))
      .all();
    const before = new Map(rows.map(({ number, flags }) => [number, [...flags].sort()]));
    const changed = said.filter(({ number, flags }) => !isSame(before.get(number), flags));
    if (changed.length === 0) return;
    inTransaction(this.store, (tx) => {
      for (const { number, flags } of changed) {
        const one = and(eq(messages.auditId, auditId), eq(messages.number, number));
        tx.update(messages).set({ flags }).where(one).run();
      }
    });
    this.#flagged += changed.length;
  }

  /** Keeps all messages so far. */
  async settle(): Promise<void> {
    const rows = this.#rows;
    if (rows.length === 0) return;
    this.#rows = [];
    this.#unsettled = 0;
    await this.importer.finish();
    const { importer, store } = this;
    const { auditId } = this.job;
    inTransaction(store, (tx) => {
      keepFetched(store, auditId, rows);
      keepHeld(store, auditId, importer.sourceId, importer.held);
      const source = { messages: importer.count, repeated: importer.repeated, bytes: this.#octets };
      tx.update(sources).set(source).where(eq(sources.id, importer.sourceId)).run();
    });
    importer.held = [];
    this.settled = importer.count;
  }

  /** From now on what was fetched counts. */
  conclude(trouble: string): string {
    const { importer, store, settled } = this;
    const { auditId } = this.job;
    const { sourceId } = importer;
    const left = [trouble, this.#leftOut()].filter(Boolean).join(' ');
    const odd = settled === importer.count ? oddityStatement(importer.oddities, importer.count) : '';
    inTransaction(store, (tx) => {
      const audit = tx.select().from(audits).where(eq(audits.id, auditId)).get();
      if (audit) {
        const ownAddresses = ownAfter(audit, importer);
        tx.update(audits).set({ ownAddresses }).where(eq(audits.id, auditId)).run();
      }
      const files = importer.report.lines(importer.first + settled);
      tx.update(sources).set({ files }).where(eq(sources.id, sourceId)).run();
      // Not before all are fetched: under another UIDVALIDITY they may be the same messages.
      const gone = this.#vanished.reduce((sum, one) => sum + dropVanished(tx, auditId, one), 0);
      const found = { added: settled, flagged: this.#flagged, gone, trouble: left };
      const statement = [left, odd, repeatedStatement(importer.repeated)].filter(Boolean).join(' ');
      concludeFetch(tx, auditId, sourceId, found, statement);
    });
    return `${settled} new messages from ${mailboxName(this.server)}`;
  }

  #leftOut(): string {
    const [are, were] = this.#tooLarge === 1 ? ['message', 'was'] : ['messages', 'were'];
    return this.#tooLarge > 0 ? `${this.#tooLarge} ${are} of more than 150 MB ${were} left out.` : '';
  }

  #report(more: number): void {
    this.#done += more;
    this.job.report({ phase: 'fetching', done: this.#done, total: this.#total, unit: 'messages' });
  }

  async #waited<T>(awaited: Promise<T>): Promise<T> {
    // Nobody waits for it if the checkpoint throws.
    awaited.catch(() => {});
    this.job.checkpoint();
    return watched(awaited, this.job.checkpoint);
  }
}
