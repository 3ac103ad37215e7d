import { sql } from 'drizzle-orm';
import { PackedMessages } from '../../core/audit/packed-messages';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { type StoredMail, type Valued, valued, valuing } from '../../core/audit/stored';
import { Bitmap } from '../../core/flow/bitmap';
import { failedRecipients } from '../../core/mail/bounces';
import { readMessage } from '../../core/mail/message';
import { INBOX } from '../../core/sieve/interpret/fate';
import { elementAt, ownJson } from '../../core/text/lookup';
import type { Audit } from '../audits/audits';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { emptyToo } from '../gather/folders';
import { betweenOthers } from '../threads/thread';
import { StoredColumns } from './columns';
import { maybeKnown } from './knowledge';
import { counted, folderCounts } from './message-numbers';
import { maybeRaw } from './raw';
import { recipientsOf } from './recipients';

/** The data that findings need from stored mail; conversations only if computed. `between` may throw to cancel. */
export const storedMail = (store: Store, audit: Audit, between?: () => void): StoredMail =>
  atOnce(storedInSteps(store, audit), between);

/** Rows read in one step. */
const STEP = 1024;

function* storedInSteps(store: Store, audit: Audit): Steps<StoredMail> {
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  const found = new PackedMessages(audit.messageCount);
  const isThere = new Bitmap(audit.messageCount);
  const folders = new Set<string>([INBOX]);
  for (let from = 0; from < audit.messageCount; from += STEP) {
    for (const [number, folder, flags, sender, senderName, subject, date, listId, outgoing] of rowsFrom(
      store,
      audit,
      from,
    )) {
      isThere.add(number);
      folders.add(folder);
      found.set(number, {
        folder,
        seen: flags.includes('\\seen'),
        answered: flags.includes('\\answered'),
        flagged: flags.includes('\\flagged'),
        sender: sender.toLowerCase(),
        senderName,
        subject,
        date,
        listId,
        outgoing: outgoing === 1,
      });
    }
    yield;
  }
  const fields = [yield* recipientsOf(columns, 'to', isThere), yield* recipientsOf(columns, 'cc', isThere)];
  found.finish(fields, maybeKnown(store, audit, 'conversations'));
  for (const folder of emptyToo(store, audit.id)) folders.add(folder);
  return {
    messages: found,
    own: new Set(audit.ownAddresses),
    folders: audit.storedCount > 0 ? folders : null,
    uses: audit.folderUses,
    fieldNames: columns.fieldNames(),
    bounces: yield* bouncesIn(store, audit, columns, (number) => isThere.has(number)),
  };
}

/** By address: the reports that mail to it failed. */
function* bouncesIn(
  store: Store,
  audit: Audit,
  columns: StoredColumns,
  isThere: (number: number) => boolean,
): Steps<Map<string, number[]>> {
  const reports: number[] = [];
  for (const { terms, messages: numbers, places } of columns.piecesByValue('header:content-type')) {
    const isReport = terms.map((type) => /^multipart\/report\b/i.test(type));
    for (const [at, number] of numbers.entries()) {
      // Of several types, the first counts.
      if (isReport[elementAt(places, at)] && number !== numbers[at - 1] && isThere(number)) reports.push(number);
    }
    yield;
  }
  const bounces = new Map<string, number[]>();
  for (const number of reports) {
    const raw = maybeRaw(store, audit.id, number);
    for (const address of raw === null ? [] : failedRecipients(readMessage(raw))) {
      bounces.set(address, [...(bounces.get(address) ?? []), number]);
    }
    yield;
  }
  return bounces;
}

type Row = readonly [
  number: number,
  folder: string,
  flags: readonly string[],
  sender: string,
  senderName: string,
  subject: string,
  date: number | null,
  listId: string | null,
  outgoing: 0 | 1,
];

/** As one text, since binding a row for each message takes several times as long. */
function rowsFrom(store: Store, audit: Audit, from: number): readonly Row[] {
  const { number, folder, flags, fromAddress, fromName, subject, date, listId, outgoing } = messages;
  const row = store
    .select({
      rows: sql<string>`json_group_array(json_array(${number}, ${folder}, json(${flags}), ${fromAddress}, ${fromName},
        ${subject}, ${date}, ${listId}, ${outgoing}))`,
    })
    .from(messages)
    .where(counted(audit, from, from + STEP))
    .get();
  return row ? ownJson<Row[]>(row.rows) : [];
}

const recent = new Region<Valued>({
  name: 'mail as findings see it',
  most: 1024 * 1024 * 1024,
  weigh: ({ mail }) => 200 * mail.messages.length,
  entries: 2,
});

/**
 * The same with the evidence of what the user values, which takes seconds for a large mailbox and is needed by several
 * pages. `between` may throw to cancel.
 */
export function valuedMail(store: Store, audit: Audit, between?: () => void): Valued {
  const name = nameOf(store, audit);
  const known = recent.get(name) ?? valued(storedMail(store, audit, between), between);
  recent.set(name, known);
  return known;
}

/** Columns that most tests compare; otherwise the first letter typed into a rule would wait for them. */
const LOOKED_AT = ['header:subject', 'address:from'] as const;

/** Collects it before the first page needs it, in steps between other responses. */
export async function gatherAhead(store: Store, audit: Audit): Promise<void> {
  const name = nameOf(store, audit);
  if (recent.get(name)) return;
  const mail = await betweenOthers(storedInSteps(store, audit));
  const valued = await betweenOthers(valuing(mail));
  if (!recent.get(name)) recent.set(name, valued);
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  for (const column of LOOKED_AT) await betweenOthers(columns.dictionaryInSteps(column));
}

function nameOf(store: Store, audit: Audit): string {
  const conversations = maybeKnown(store, audit, 'conversations') !== null;
  const { id, edition, ownAddresses } = audit;
  return `${id} ${edition} ${conversations} ${ownAddresses.join(' ')} ${JSON.stringify(folderCounts(store, audit))}`;
}
