import { and, eq, inArray, isNotNull, isNull, sql } from 'drizzle-orm';
import { mainPlace, placesIn } from '../../core/mail/place-fields';
import { isSentFolder } from '../../core/mail/places';
import { getAudit } from '../audits/audits';
import { inTransaction, type Store } from '../database/open';
import { audits, messages } from '../database/schema';
import { countAnew } from '../gather/folders';
import { StoredColumns } from '../mail/columns';
import type { JobContext } from './job';

/** SQLite limits the number of parameters in a statement. */
const STEP = 500;

/**
 * Puts messages where the chosen header field says, or back where their files say. Messages without the field stay
 * where they are. Either all of them are put anew, or those that came since.
 */
export function placeMail(store: Store, job: JobContext): void {
  const row = store.select().from(audits).where(eq(audits.id, job.auditId)).get();
  if (!row) return;
  const { placeField, placedField, placedCount, messageCount } = row;
  const isOther = placeField !== placedField;
  if (!isOther && (placeField === null || placedCount === messageCount)) return;
  const groups = placeField === null ? [] : groupsOf(store, job, placeField, isOther ? 0 : placedCount);
  inTransaction(store, (tx) => {
    if (isOther && placedField !== null) asInFiles(tx, job.auditId);
    for (const { places, numbers } of groups) {
      for (let at = 0; at < numbers.length; at += STEP) {
        job.checkpoint();
        put(tx, job.auditId, places, numbers.slice(at, at + STEP));
      }
    }
    const placed = { placedField: placeField, placedCount: placeField === null ? 0 : messageCount };
    tx.update(audits).set(placed).where(eq(audits.id, job.auditId)).run();
    countAnew(tx, job.auditId);
  });
}

interface Group {
  readonly places: readonly string[];
  readonly numbers: number[];
}

/** Messages from a number on, by the places that the field names. */
function groupsOf(store: Store, job: JobContext, field: string, from: number): Group[] {
  const audit = getAudit(store, job.auditId);
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  const groups = new Map<string, Group>();
  columns.scan(`header:${field}`, (number, values) => {
    job.checkpoint();
    if (number < from) return;
    const places = [...new Set(values.flatMap(placesIn))];
    if (places.length === 0) return;
    const key = JSON.stringify(places);
    const group = groups.get(key);
    if (group) group.numbers.push(number);
    else groups.set(key, { places, numbers: [number] });
  });
  return [...groups.values()];
}

function put(tx: Store, auditId: string, places: readonly string[], numbers: readonly number[]): void {
  const among = and(eq(messages.auditId, auditId), inArray(messages.number, [...numbers]));
  tx.update(messages)
    .set({ asFile: sql`json_object('folder', ${messages.folder}, 'outgoing', ${messages.outgoing})` })
    .where(and(among, isNull(messages.asFile)))
    .run();
  tx.update(messages)
    .set({
      folder: mainPlace(places) ?? messages.folder,
      places: places.length > 1 ? places : null,
      ...(places.some(isSentFolder) ? { outgoing: true } : {}),
    })
    .where(among)
    .run();
}

function asInFiles(tx: Store, auditId: string): void {
  tx.update(messages)
    .set({
      folder: sql`json_extract(${messages.asFile}, '$.folder')`,
      outgoing: sql`json_extract(${messages.asFile}, '$.outgoing')`,
      places: null,
      asFile: null,
    })
    .where(and(eq(messages.auditId, auditId), isNotNull(messages.asFile)))
    .run();
}
