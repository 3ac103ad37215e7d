import { eq } from 'drizzle-orm';
import { mayBePlaces, PlaceCounter, type PlaceField } from '../../core/mail/place-fields';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { audits } from '../database/schema';
import { StoredColumns } from '../mail/columns';

export interface PlaceFieldView {
  /** The field that names the places of messages, in lower case; null for the folders of the files. */
  readonly chosen: string | null;
  /** Fields whose values look like places, those with the most messages first. */
  readonly proposed: readonly PlaceField[];
  readonly total: number;
}

const known = new Region<readonly PlaceField[]>({
  name: 'fields that name places',
  most: 4 * 1024 * 1024,
  weigh: (fields) => fields.reduce((sum, { places }) => sum + 100 * places.length, 1),
});

/** Fields of which values are counted at most; mail has hundreds. */
const MOST_FIELDS = 100;

export function placeFieldView(store: Store, auditId: string): PlaceFieldView {
  const audit = getAudit(store, auditId);
  return { chosen: audit.placeField, proposed: proposedFor(store, audit), total: audit.storedCount };
}

function proposedFor(store: Store, audit: Audit): readonly PlaceField[] {
  const key = mailKey(audit);
  const before = known.get(key);
  if (before) return before;
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  const names = [...columns.fieldNames()].filter(mayBePlaces).sort().slice(0, MOST_FIELDS);
  const found = names.flatMap((name) => {
    const counter = new PlaceCounter();
    columns.scan(`header:${name}`, (_number, values) => counter.add(values));
    return counter.maybeField(name) ?? [];
  });
  found.sort((a, b) => b.messages - a.messages);
  known.set(key, found);
  return found;
}

/** The next simulation puts the messages there. Throws a refusal for a field that no message has. */
export function setPlaceField(store: Store, auditId: string, field: string | null): void {
  const audit = getAudit(store, auditId);
  const name = field?.toLowerCase() ?? null;
  if (name !== null) {
    const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
    if (!columns.fieldNames().has(name)) throw new Refusal(`No stored message has the field ${field}.`, 422);
  }
  store.update(audits).set({ placeField: name }).where(eq(audits.id, auditId)).run();
}
