import { hash } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { readMessage } from '../../core/mail/message';
import { withoutStorage } from '../../core/mail/same-message';
import { likelyOwn, noEvidence } from '../../core/mail/summary';
import { isSame } from '../../core/rules/same';
import { asBuffer } from '../../core/text/octets';
import type { FoundMail, PassedOver } from '../../files/mail/found';
import { preparedInsert } from '../database/insert';
import { inTransaction, type Store } from '../database/open';
import { type audits, columnPieces, messages, rawPieces, repeats } from '../database/schema';
import { preparedHolder } from '../gather/mail-sources';
import type { Oddity } from '../gather/oddities';
import { PIECE_MESSAGES } from '../mail/column-pieces';
import { type MessageWords, preparedIndexing } from '../mail/word-index';
import { watched } from '../threads/thread';
import { countOn, FileReport, type ReportLine } from './file-report';
import { KnownMessages } from './known-messages';
import { type Arrival, flagsFor, type NewMessage, type Prepared } from './prepare';
import { type Preparer, preparesHere } from './preparer';

/**
 * Messages are prepared and written in batches of at most this many octets; this many batches are in progress at once.
 */
const BATCH_OCTETS = 8 * 1024 * 1024;
const UNDERWAY = 4;

/** Numbers messages, has them prepared, and writes them; each batch is one transaction. */
export class Importer {
  count = 0;
  /** Messages with at least one header field, or recognised by their path. */
  readable = 0;
  /** Messages that their folder already contains. */
  repeated = 0;
  readonly passed: PassedOver[] = [];
  /** Imported folders, some of which may be empty. */
  readonly folders = new Set<string>();
  /** Messages that an earlier source already brought, with their flags if these have changed. */
  held: HeldMessage[] = [];
  readonly report = new FileReport();
  readonly oddities = new Map<Oddity, number>();
  readonly #own = noEvidence();
  readonly #inserts: Inserts;
  readonly #holder: ReturnType<typeof preparedHolder>;
  readonly #underway: Underway[] = [];
  /** The messages imported with this file. */
  readonly #known = new KnownMessages();
  #batch: Arrival[] = [];
  /** For each message of the batch, the line of its file. */
  #lines: (ReportLine | null)[] = [];
  #octets = 0;

  constructor(
    readonly store: Store,
    readonly audit: Pick<typeof audits.$inferSelect, 'id' | 'ordinal' | 'folderUses'>,
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

  /** Returns the number of the message, or of the same one that its folder already contains. */
  async add(found: FoundMail): Promise<number> {
    const digest = digestOf(found.raw);
    const line = this.report.line(found);
    const content = contentDigest(found.raw, digest);
    const held = this.#maybeHeld(found, digest, content);
    if (held !== null) {
      this.repeated++;
      if (line) line.repeated++;
      return held;
    }
    const number = this.first + this.count++;
    this.#known.set(digest, found.folder, number);
    countOn(line, number);
    this.#batch.push({ number, digest: content, found });
    this.#lines.push(line);
    this.#octets += found.raw.length;
    if (this.#batch.length >= PIECE_MESSAGES || this.#octets >= BATCH_OCTETS) await this.#send();
    return number;
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

  /**
   * The same message is stored once in a folder: byte for byte if one file has it twice, and whatever else stored it if it
   * comes from elsewhere.
   */
  #maybeHeld(found: FoundMail, digest: Buffer, content: string): number | null {
    const here = this.#known.maybeNumber(digest, found.folder);
    if (here !== null || this.first === 0) return here;
    const whole = textOf(digest);
    const held =
      this.#holder(content, found.folder) ??
      // Earlier versions kept the digest of all octets.
      (content === whole ? undefined : this.#holder(whole, found.folder));
    if (!held) return null;
    this.#known.set(digest, found.folder, held.number);
    // A message that is read again may have been read or answered since.
    const flags = this.isAgain || content !== whole ? flagsFor(found, readMessage(found.raw)) : held.flags;
    this.held.push({ number: held.number, flags: isSame(flags, held.flags) ? null : flags });
    return held.number;
  }

  async #send(): Promise<void> {
    const arrivals = this.#batch;
    const lines = this.#lines;
    if (arrivals.length === 0) return;
    this.#batch = [];
    this.#lines = [];
    this.#octets = 0;
    const { folderUses: uses } = this.audit;
    const batch = { auditId: this.audit.id, sourceId: this.sourceId, uses, arrivals };
    // Where this thread would wait for the other one, it does the same work.
    const [oldest] = this.#underway;
    const isBehind = this.#underway.length >= UNDERWAY - 1 && oldest?.isDone === false;
    const prepared = (isBehind ? preparesHere : this.preparer).prepare(batch);
    const underway: Underway = { prepared, lines, isDone: false };
    const done = () => {
      underway.isDone = true;
    };
    // Its error is thrown when it is awaited.
    prepared.then(done, done);
    this.#underway.push(underway);
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
  isDone: boolean;
  readonly prepared: Promise<Prepared>;
  readonly lines: readonly (ReportLine | null)[];
}

interface Inserts {
  readonly message: (row: NewMessage) => void;
  readonly raw: (row: typeof rawPieces.$inferSelect) => void;
  readonly column: (row: typeof columnPieces.$inferSelect) => void;
  readonly words: (words: MessageWords) => void;
}

/** A message that an earlier source already brought, with its flags if these have changed. */
interface HeldMessage {
  readonly number: number;
  readonly flags: readonly string[] | null;
}

/** Records that a source contains messages which an earlier one brought. */
export function keepHeld(store: Store, auditId: string, sourceId: string, held: readonly HeldMessage[]): void {
  const insert = preparedInsert(store, repeats);
  for (const { number, flags } of held) {
    insert({ auditId, number, sourceId });
    const numbered = and(eq(messages.auditId, auditId), eq(messages.number, number));
    if (flags !== null) store.update(messages).set({ flags }).where(numbered).run();
  }
}

/** Tells of messages that were there before; empty if there are none. */
export function repeatedStatement(repeated: number): string {
  if (repeated === 0) return '';
  const [messages, is, are] = repeated === 1 ? ['message', 'was', 'is'] : ['messages', 'were', 'are'];
  return `${repeated} ${messages} ${is} already in the folder and ${are} stored once.`;
}

/** The own addresses of an audit after an import; those that the user has confirmed stay as they are. */
export const ownAfter = (
  { ownAddresses, addressesConfirmed }: Pick<typeof audits.$inferSelect, 'ownAddresses' | 'addressesConfirmed'>,
  importer: Importer,
): readonly string[] =>
  addressesConfirmed ? ownAddresses : [...new Set([...ownAddresses, ...importer.ownAddresses()])];

/** Half of SHA-256, which is more than enough to distinguish messages. */
const digestOf = (raw: Uint8Array): Buffer => hash('sha256', raw, 'buffer').subarray(0, 16);

/** The digest that the database has: of what a message is, however it was stored. `whole` is that of all its octets. */
function contentDigest(raw: Uint8Array, whole: Buffer): string {
  const content = withoutStorage(raw);
  return textOf(content === raw ? whole : digestOf(content));
}

/** As the database has it. */
const textOf = (digest: Buffer): string => digest.toString('base64url');

function addCounts<K>(sums: Map<K, number>, counts: ReadonlyMap<K, number>): void {
  for (const [key, count] of counts) sums.set(key, (sums.get(key) ?? 0) + count);
}
