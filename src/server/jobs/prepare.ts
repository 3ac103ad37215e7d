import { readHeaders } from '../../core/mail/headers';
import { envelopeOf, type MailMessage, readableTexts, sizeWithCrlf } from '../../core/mail/message';
import { makingOddities } from '../../core/mail/oddities';
import { type FolderUse, isOutgoing, isSentFolder } from '../../core/mail/places';
import { attachmentsOf } from '../../core/mail/reading';
import {
  countOwnAddresses,
  deliveredTo,
  listIdOf,
  noEvidence,
  type OwnEvidence,
  receivedOf,
  storedFlags,
  summaryOf,
} from '../../core/mail/summary';
import type { FoundMail } from '../../files/mail/found';
import type { messages } from '../database/schema';
import type { Oddity } from '../gather/oddities';
import { ColumnPieces, type ColumnRow, TextPieces } from '../mail/column-pieces';
import { RawBlocks, type RawRow } from '../mail/raw';
import type { MessageWords } from '../mail/word-index';

/** A message being imported, already numbered. */
export interface Arrival {
  readonly number: number;
  readonly digest: string;
  readonly found: FoundMail;
}

export interface Batch {
  readonly auditId: string;
  readonly sourceId: string;
  /** What folders are for, where their server says so. */
  readonly uses: Readonly<Record<string, FolderUse>>;
  readonly arrivals: readonly Arrival[];
}

/** Everything to be written for consecutive messages, as plain data so that another thread can prepare it. */
export interface Prepared {
  readonly messages: readonly NewMessage[];
  readonly raws: readonly RawRow[];
  readonly columns: readonly ColumnRow[];
  readonly words: readonly MessageWords[];
  /** Messages with at least one header field, or recognised by their path. */
  readonly readable: number;
  readonly oddities: ReadonlyMap<Oddity, number>;
  /** Evidence of the user's own addresses. */
  readonly own: OwnEvidence;
}

/** Characters of the texts of one message that the full-text index takes. */
const INDEXED = 1024 * 1024;
/** Of larger messages, only texts within this many octets are indexed; tests read all of them. */
const LARGE = 16 * 1024 * 1024;

/** The flags of a message, from its path and its Status fields. */
export const flagsFor = ({ flags, hasAllFlags }: FoundMail, message: MailMessage): string[] => [
  ...new Set([...flags, ...(hasAllFlags ? [] : storedFlags(message))]),
];

/** A message as its file tells of it; a header field may put it elsewhere later. */
export type NewMessage = Omit<typeof messages.$inferSelect, 'places' | 'asFile'>;

/** Reads, decodes, folds and compresses messages: all the work of an import except finding and writing them. */
export function prepare({ auditId, sourceId, uses, arrivals }: Batch): Prepared {
  const columns = new ColumnPieces(arrivals[0]?.number ?? 0);
  const texts = new TextPieces();
  const rows: NewMessage[] = [];
  const raws = new RawBlocks();
  const words: MessageWords[] = [];
  const oddities = new Map<Oddity, number>();
  const evidence = noEvidence();
  let readable = 0;
  for (const { number, digest, found } of arrivals) {
    const { fields, strangeLines, bodyStart } = readHeaders(found.raw);
    const message = { fields, size: sizeWithCrlf(found.raw), body: found.raw.subarray(bodyStart) };
    const summary = summaryOf(message);
    const own: Oddity[] = [...found.oddities];
    if (fields.length > 0 || found.single) readable++;
    if (fields.length === 0 && found.raw.length > 0) own.push('no-header');
    if (strangeLines.length > 0) own.push('strange-lines');
    if (summary.date === null) own.push('no-date');
    own.push(...makingOddities(found.raw, message));
    for (const oddity of own) oddities.set(oddity, (oddities.get(oddity) ?? 0) + 1);
    const use = uses[found.folder] ?? null;
    countOwnAddresses(message, use === 'sent' || isSentFolder(found.folder), evidence);
    const read =
      message.size > LARGE
        ? readableTexts({ ...message, body: message.body.subarray(0, LARGE) })
        : readableTexts(message);
    raws.add(number, found.raw);
    columns.add(number, message, envelopeOf(message, null));
    texts.add(number, message, read);
    words.push({
      number,
      subject: summary.subject,
      people: `${summary.from} ${summary.fromAddress} ${summary.to}`,
      body: read.join('\n').slice(0, INDEXED),
    });
    rows.push({
      auditId,
      number,
      sourceId,
      folder: found.folder,
      flags: flagsFor(found, message),
      messageId: summary.messageId,
      subject: summary.subject,
      fromName: summary.from,
      fromAddress: summary.fromAddress,
      toAddresses: summary.to,
      date: summary.date,
      received: found.received ?? receivedOf(message, found.fromLine),
      listId: listIdOf(message),
      deliveredTo: deliveredTo(message),
      outgoing: isOutgoing(message, found.folder, use),
      attachments: attachmentsOf(message),
      digest,
      octets: found.raw.length,
      size: message.size,
      fromLine: found.fromLine,
      oddities: own,
    });
  }
  return {
    messages: rows,
    raws: raws.take(),
    columns: [...columns.take(), ...texts.take()],
    words,
    readable,
    oddities,
    own: evidence,
  };
}
