import { createHash } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { atOnce } from '../../core/audit/stepwise';
import { MessageTooLarge } from '../../core/mail/mbox';
import { readMessage } from '../../core/mail/message';
import { likelyOwn, noEvidence } from '../../core/mail/summary';
import { isSame } from '../../core/rules/same';
import { mailIn } from '../../files/mail/formats';
import { type FoundMail, type MailFileSettings, type PassedOver, Unreadable } from '../../files/mail/found';
import { preparedInsert } from '../database/insert';
import { inTransaction, type Store } from '../database/open';
import { DISK_FULL, emptyLog, isDiskFull, makingRoom } from '../database/reserve';
import { audits, columnPieces, messages, rawPieces, repeats, sources } from '../database/schema';
import { droppingFrom, dropSourceMail, preparedHolder, recount, setState } from '../gather/mail-sources';
import { type Oddity, oddityStatement } from '../gather/oddities';
import { PIECE_MESSAGES } from '../mail/columns';
import { type MessageWords, preparedIndexing } from '../mail/word-index';
import { watched } from '../threads/thread';
import { countOn, FileReport, type ReportLine } from './file-report';
import { Cancelled, type JobContext } from './job';
import { type Arrival, flagsFor, type NewMessage, type Prepared } from './prepare';
import type { Preparer } from './preparer';

/**
 * Messages are prepared and written in batches of at most this many octets; this many batches are in progress at once.
 */
const BATCH_OCTETS = 8 * 1024 * 1024;
const UNDERWAY = 3;

/**
 * Imports a file of mail, or all files of a folder. Until the last statement the messages are beyond the audit's count,
 * so that nobody sees half an import; whatever ends it early deletes them again.
 */
export async function importMail(
  store: Store,
  job: JobContext,
  sourceId: string,
  file: string,
  preparer: Preparer,
  replaces: string | null = null,
): Promise<string> {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  const audit = store.select().from(audits).where(eq(audits.id, job.auditId)).get();
  if (!source || !audit) throw new Error(`no source ${sourceId}`);
  const first = audit.messageCount;
  // If there was no space even to delete an unfinished import, it is still there.
  atOnce(droppingFrom(store, audit.id, first));
  store.update(sources).set({ firstMessage: first }).where(eq(sources.id, sourceId)).run();
  const importer = new Importer(store, audit, source.id, first, preparer, replaces !== null, job.checkpoint);
  const settings: MailFileSettings = {
    name: source.fileName,
    folder: source.folder,
    progress: (done, total) => {
      job.checkpoint();
      job.report({ phase: 'reading mail', done, total, unit: 'bytes', messages: importer.count });
    },
    isEnd: (error) => error instanceof Cancelled,
    passOver: (one) => importer.passOver(one),
    foundFolder: (folder) => importer.folders.add(folder),
  };
  try {
    for await (const found of mailIn(file, settings)) {
      job.checkpoint();
      await importer.add(found);
    }
    await importer.finish();
    return finish(store, job.auditId, sourceId, importer, replaces);
  } catch (error) {
    dropSourceMail(store, sourceId);
    const state = error instanceof Cancelled ? 'cancelled' : 'refused';
    const statement = error instanceof Cancelled ? 'Cancelled. Nothing of this file was imported.' : refusal(error);
    makingRoom(() =>
      store.update(sources).set({ state, statement, messages: 0 }).where(eq(sources.id, sourceId)).run(),
    );
    emptyLog(store);
    if (error instanceof MessageTooLarge || error instanceof Unreadable || isDiskFull(error)) return statement;
    throw error;
  } finally {
    preparer.close();
  }
}

function refusal(error: unknown): string {
  if (error instanceof MessageTooLarge) return `Nothing of this file was imported: ${error.message} to be read.`;
  if (error instanceof Unreadable) return `Nothing of this file was imported: ${error.message}.`;
  if (isDiskFull(error)) return `Nothing of this file was imported. ${DISK_FULL}`;
  return 'Nothing of this file was imported: reading it failed.';
}

function finish(store: Store, auditId: string, sourceId: string, importer: Importer, replaces: string | null): string {
  const { count, first, repeated } = importer;
  if (importer.readable === 0 && repeated === 0) {
    dropSourceMail(store, sourceId);
    const statement = noMailStatement(importer.passed);
    store.update(sources).set({ state: 'refused', statement, messages: 0 }).where(eq(sources.id, sourceId)).run();
    return statement;
  }
  const statements = [
    oddityStatement(importer.oddities, count),
    repeatedStatement(repeated),
    passedStatement(importer.passed),
  ];
  const statement = statements.filter(Boolean).join(' ');
  inTransaction(store, (tx) => {
    tx.update(sources)
      .set({
        state: 'ready',
        messages: count,
        repeated,
        statement,
        files: importer.report.lines(),
        folders: [...importer.folders],
      })
      .where(eq(sources.id, sourceId))
      .run();
    const audit = tx.select().from(audits).where(eq(audits.id, auditId)).get();
    const known = audit?.ownAddresses ?? [];
    const own = audit?.addressesConfirmed ? known : [...new Set([...known, ...importer.ownAddresses()])];
    tx.update(audits)
      .set({ messageCount: first + count, ownAddresses: own })
      .where(eq(audits.id, auditId))
      .run();
    const insert = preparedInsert(tx, repeats);
    for (const { number, flags } of importer.held) {
      insert({ auditId, number, sourceId });
      if (flags !== null) tx.update(messages).set({ flags }).where(numbered(auditId, number)).run();
    }
    if (replaces !== null) setState(tx, auditId, replaces, 'removed');
    else if (importer.held.length > 0) recount(tx, auditId);
  });
  return `${count} messages`;
}

const numbered = (auditId: string, number: number) => and(eq(messages.auditId, auditId), eq(messages.number, number));

function repeatedStatement(repeated: number): string {
  if (repeated === 0) return '';
  const [messages, is, are] = repeated === 1 ? ['message', 'was', 'is'] : ['messages', 'were', 'are'];
  return `${repeated} ${messages} ${is} already in the folder, byte for byte, and ${are} stored once.`;
}

/** Why no mail was found, with the reasons if known. */
function noMailStatement(passed: readonly PassedOver[]): string {
  const reasons = [...new Set(passed.map(({ reason }) => reason))];
  if (reasons.length === 0) return 'The file contains no mail: it is neither an mbox file nor a message.';
  const [only, another] = reasons;
  const files = passed.length === 1 ? 'Its only file is' : `All of its ${passed.length} files are`;
  if (only !== undefined && another === undefined) return `Nothing could be imported. ${files} skipped: ${only}.`;
  return `Nothing could be imported. ${passedStatement(passed)}`;
}

const NAMED_PASSED = 5;

/** Lists skipped files, the first ones by name; empty if there are none. */
function passedStatement(passed: readonly PassedOver[]): string {
  if (passed.length === 0) return '';
  const named = passed.slice(0, NAMED_PASSED).map(({ path, reason }) => `“${path.slice(-80)}” (${reason})`);
  const more = passed.length > NAMED_PASSED ? ` and ${passed.length - NAMED_PASSED} more` : '';
  return `Skipped: ${named.join(', ')}${more}.`;
}

/** Numbers messages, has them prepared, and writes them; each batch is one transaction. */
class Importer {
  count = 0;
  /** Messages with at least one header field, or recognised by their path. */
  readable = 0;
  /** Messages that their folder already contains. */
  repeated = 0;
  readonly passed: PassedOver[] = [];
  /** Imported folders, some of which may be empty. */
  readonly folders = new Set<string>();
  /** Messages that an earlier source already brought, with their flags if these have changed. */
  readonly held: { readonly number: number; readonly flags: readonly string[] | null }[] = [];
  readonly report = new FileReport();
  readonly oddities = new Map<Oddity, number>();
  readonly #own = noEvidence();
  readonly #inserts: Inserts;
  readonly #holder: ReturnType<typeof preparedHolder>;
  readonly #underway: Underway[] = [];
  /** By folder, the digests of messages imported with this file. */
  readonly #known = new Map<string, Set<string>>();
  #batch: Arrival[] = [];
  /** For each message of the batch, the line of its file. */
  #lines: (ReportLine | null)[] = [];
  #octets = 0;

  constructor(
    readonly store: Store,
    readonly audit: { readonly id: string; readonly ordinal: number },
    readonly sourceId: string,
    readonly first: number,
    readonly preparer: Preparer,
    /** Whether it replaces an earlier reading of the same mailbox. */
    readonly isAgain: boolean,
    /** May throw to cancel. */
    readonly checkpoint: () => void,
  ) {
    this.#holder = preparedHolder(store, audit.id, first);
    this.#inserts = {
      message: preparedInsert(store, messages, 'places', 'asFile'),
      raw: preparedInsert(store, rawPieces),
      column: preparedInsert(store, columnPieces),
      words: preparedIndexing(store, audit.ordinal),
    };
  }

  async add(found: FoundMail): Promise<void> {
    const digest = digestOf(found.raw);
    const line = this.report.line(found);
    if (this.#isHeld(found, digest)) {
      this.repeated++;
      if (line) line.repeated++;
      return;
    }
    const number = this.first + this.count++;
    countOn(line, number);
    this.#batch.push({ number, digest, found });
    this.#lines.push(line);
    this.#octets += found.raw.length;
    if (this.#batch.length >= PIECE_MESSAGES || this.#octets >= BATCH_OCTETS) await this.#send();
  }

  passOver(one: PassedOver): void {
    this.passed.push(one);
    this.report.passedOver(one);
  }

  /** Writes everything collected so far. */
  async finish(): Promise<void> {
    await this.#send();
    while (this.#underway.length > 0) await this.#writeOldest();
  }

  ownAddresses(): string[] {
    return likelyOwn(this.#own, this.count);
  }

  /** The same message, byte for byte, is stored once in a folder. */
  #isHeld(found: FoundMail, digest: string): boolean {
    const folder = found.folder;
    const known = this.#known.get(folder) ?? new Set();
    this.#known.set(folder, known);
    if (known.has(digest)) return true;
    known.add(digest);
    if (this.first === 0) return false;
    const held = this.#holder(digest, found.folder);
    if (!held) return false;
    // A message that is read again may have been read or answered since.
    const flags = this.isAgain ? flagsFor(found, readMessage(found.raw)) : held.flags;
    this.held.push({ number: held.number, flags: isSame(flags, held.flags) ? null : flags });
    return true;
  }

  async #send(): Promise<void> {
    const arrivals = this.#batch;
    const lines = this.#lines;
    if (arrivals.length === 0) return;
    this.#batch = [];
    this.#lines = [];
    this.#octets = 0;
    const prepared = this.preparer.prepare({ auditId: this.audit.id, sourceId: this.sourceId, arrivals });
    // Its error is thrown when it is awaited.
    prepared.catch(() => {});
    this.#underway.push({ prepared, lines });
    if (this.#underway.length >= UNDERWAY) await this.#writeOldest();
  }

  async #writeOldest(): Promise<void> {
    const oldest = this.#underway.shift();
    if (!oldest) return;
    const { prepared: awaited, lines } = oldest;
    const prepared = await watched(awaited, this.checkpoint);
    for (const [at, { oddities }] of prepared.messages.entries()) {
      const line = lines[at];
      if (line && oddities.length > 0) line.odd++;
    }
    this.readable += prepared.readable;
    addCounts(this.oddities, prepared.oddities);
    for (const kind of ['delivered', 'addressed', 'sent'] as const) addCounts(this.#own[kind], prepared.own[kind]);
    const auditId = this.audit.id;
    inTransaction(this.store, () => {
      for (const row of prepared.messages) {
        this.checkpoint();
        this.#inserts.message(row);
      }
      for (const row of prepared.raws) this.#inserts.raw({ auditId, ...row, data: asBuffer(row.data) });
      for (const row of prepared.columns) this.#inserts.column({ auditId, ...row, data: asBuffer(row.data) });
      for (const words of prepared.words) {
        this.checkpoint();
        this.#inserts.words(words);
      }
    });
  }
}

interface Underway {
  readonly prepared: Promise<Prepared>;
  readonly lines: readonly (ReportLine | null)[];
}

interface Inserts {
  readonly message: (row: NewMessage) => void;
  readonly raw: (row: typeof rawPieces.$inferSelect) => void;
  readonly column: (row: typeof columnPieces.$inferSelect) => void;
  readonly words: (words: MessageWords) => void;
}

/** Half of SHA-256, which is more than enough to distinguish messages. */
const digestOf = (raw: Uint8Array): string =>
  createHash('sha256').update(raw).digest().subarray(0, 16).toString('base64url');

/** A buffer sent by another thread arrives as a plain Uint8Array. */
const asBuffer = (data: Uint8Array): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

function addCounts<K>(sums: Map<K, number>, counts: ReadonlyMap<K, number>): void {
  for (const [key, count] of counts) sums.set(key, (sums.get(key) ?? 0) + count);
}
