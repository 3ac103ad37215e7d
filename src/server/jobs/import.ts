import { eq } from 'drizzle-orm';
import { columnsOf } from '../../core/flow/columns';
import { readHeaders } from '../../core/mail/headers';
import { MessageTooLarge } from '../../core/mail/mbox';
import { envelopeOf, sizeWithCrlf } from '../../core/mail/message';
import { countOwnAddresses, storedFlags, summaryOf } from '../../core/mail/summary';
import { type FoundMail, type MailFileSettings, mailIn, type PassedOver, Unreadable } from '../../files/mail-files';
import { ColumnWriter, PIECE_MESSAGES, TextWriter } from '../columns';
import { preparedInsert } from '../database/insert';
import type { Store } from '../database/open';
import { audits, messages, sources } from '../database/schema';
import { type Oddity, oddityStatement } from '../oddities';
import { RawWriter } from '../raw';
import { dropSourceMail } from '../sources';
import { Cancelled, type JobContext } from './job';

/** Messages are written in batches of at most this many octets, each one transaction. */
const BATCH_OCTETS = 16 * 1024 * 1024;

/**
 * Reads an mbox file into an audit. Until the very last statement the messages lie beyond the audit's count, so that
 * nobody sees half an import; whatever ends it early removes them again.
 */
export async function importMail(store: Store, job: JobContext, sourceId: string, file: string): Promise<string> {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  const audit = store.select().from(audits).where(eq(audits.id, job.auditId)).get();
  if (!source || !audit) throw new Error(`no source ${sourceId}`);
  const first = audit.messageCount;
  store.update(sources).set({ firstMessage: first }).where(eq(sources.id, sourceId)).run();
  const importer = new Importer(store, job.auditId, source.id, first);
  const passed: PassedOver[] = [];
  const settings: MailFileSettings = {
    name: source.fileName,
    folder: source.folder,
    progress: (done, total) => {
      job.checkpoint();
      job.report({ phase: 'reading mail', done, total, unit: 'bytes', messages: importer.count });
    },
    isEnd: (error) => error instanceof Cancelled,
    passOver: (one) => passed.push(one),
  };
  try {
    for await (const found of mailIn(file, settings)) {
      job.checkpoint();
      importer.add(found);
    }
    importer.flush();
    return finish(store, job.auditId, sourceId, importer, passed);
  } catch (error) {
    dropSourceMail(store, sourceId);
    const state = error instanceof Cancelled ? 'cancelled' : 'refused';
    const statement = error instanceof Cancelled ? 'Cancelled; nothing of it was kept.' : refusal(error);
    store.update(sources).set({ state, statement, messages: 0 }).where(eq(sources.id, sourceId)).run();
    if (error instanceof MessageTooLarge || error instanceof Unreadable) return statement;
    throw error;
  }
}

function refusal(error: unknown): string {
  if (error instanceof MessageTooLarge) return `Nothing of it was kept: ${error.message} to be read.`;
  if (error instanceof Unreadable) return `Nothing of it was kept: ${error.message}.`;
  return 'Nothing of it was kept: reading it failed.';
}

function finish(
  store: Store,
  auditId: string,
  sourceId: string,
  importer: Importer,
  passed: readonly PassedOver[],
): string {
  const { count, first } = importer;
  if (importer.readable === 0) {
    dropSourceMail(store, sourceId);
    const statement =
      'No mail was found in it: no line begins with “From ” and a date, and nothing reads as a header field.';
    store.update(sources).set({ state: 'refused', statement, messages: 0 }).where(eq(sources.id, sourceId)).run();
    return statement;
  }
  const statement = [oddityStatement(importer.oddities, count), passedStatement(passed)].filter(Boolean).join(' ');
  store.transaction((tx) => {
    tx.update(sources).set({ state: 'ready', messages: count, statement }).where(eq(sources.id, sourceId)).run();
    const audit = tx.select().from(audits).where(eq(audits.id, auditId)).get();
    const known = JSON.parse(audit?.ownAddresses ?? '[]') as string[];
    const own = [...new Set([...known, ...importer.ownAddresses()])];
    tx.update(audits)
      .set({ messageCount: first + count, ownAddresses: JSON.stringify(own) })
      .where(eq(audits.id, auditId))
      .run();
  });
  return `${count} messages`;
}

const NAMED_PASSED = 5;

/** What was passed over, the first files by name; empty where nothing was. */
function passedStatement(passed: readonly PassedOver[]): string {
  if (passed.length === 0) return '';
  const named = passed.slice(0, NAMED_PASSED).map(({ path, reason }) => `“${path.slice(-80)}” (${reason})`);
  const more = passed.length > NAMED_PASSED ? ` and ${passed.length - NAMED_PASSED} more` : '';
  return `Passed over: ${named.join(', ')}${more}.`;
}

class Importer {
  count = 0;
  /** Messages with at least one header field. */
  readable = 0;
  readonly oddities = new Map<Oddity, number>();
  readonly #own = new Map<string, number>();
  readonly #raws: RawWriter;
  readonly #insert: (row: typeof messages.$inferSelect) => void;
  #batch: FoundMail[] = [];
  #octets = 0;

  constructor(
    readonly store: Store,
    readonly auditId: string,
    readonly sourceId: string,
    readonly first: number,
  ) {
    this.#raws = new RawWriter(store, auditId);
    this.#insert = preparedInsert(store, messages);
  }

  add(entry: FoundMail): void {
    this.#batch.push(entry);
    this.#octets += entry.raw.length;
    this.count++;
    if (this.#batch.length >= PIECE_MESSAGES || this.#octets >= BATCH_OCTETS) this.flush();
  }

  flush(): void {
    const batch = this.#batch;
    if (batch.length === 0) return;
    const first = this.first + this.count - batch.length;
    this.#batch = [];
    this.#octets = 0;
    this.store.transaction((tx) => {
      const same = tx as unknown as Store;
      const columns = new ColumnWriter(first);
      const texts = new TextWriter(same, this.auditId);
      for (const [index, entry] of batch.entries()) this.#write(first + index, entry, columns, texts);
      columns.write(same, this.auditId);
      texts.flush();
    });
  }

  /** Addresses that at least a twentieth of the mail was delivered to. */
  ownAddresses(): string[] {
    const least = Math.max(2, this.count / 20);
    return [...this.#own]
      .filter(([, count]) => count >= least)
      .sort(([, a], [, b]) => b - a)
      .map(([address]) => address);
  }

  #write(number: number, entry: FoundMail, columns: ColumnWriter, texts: TextWriter): void {
    const { fields, strangeLines, bodyStart } = readHeaders(entry.raw);
    const message = { fields, size: sizeWithCrlf(entry.raw), body: entry.raw.subarray(bodyStart) };
    const summary = summaryOf(message);
    const oddities: Oddity[] = [...entry.oddities];
    if (fields.length > 0) this.readable++;
    else if (entry.raw.length > 0) oddities.push('no-header');
    if (strangeLines.length > 0) oddities.push('strange-lines');
    if (summary.date === null) oddities.push('no-date');
    for (const oddity of oddities) this.oddities.set(oddity, (this.oddities.get(oddity) ?? 0) + 1);
    countOwnAddresses(message, this.#own);
    this.#raws.write(number, entry.raw);
    columns.add(number, columnsOf(message, envelopeOf(message, null)));
    texts.add(number, message);
    this.#insert({
      auditId: this.auditId,
      number,
      sourceId: this.sourceId,
      folder: entry.folder,
      flags: JSON.stringify([...new Set([...entry.flags, ...storedFlags(message)])]),
      messageId: summary.messageId,
      subject: summary.subject,
      fromName: summary.from,
      fromAddress: summary.fromAddress,
      toAddresses: summary.to,
      date: summary.date,
      octets: entry.raw.length,
      size: message.size,
      fromLine: entry.fromLine,
      oddities: JSON.stringify(oddities),
    });
  }
}
