import { createHash, randomUUID } from 'node:crypto';
import { and, asc, desc, eq, getTableColumns, max } from 'drizzle-orm';
import { maybeSingleAddress } from '../../core/mail/address';
import type { Clock } from '../../core/mail/arrival';
import type { FolderUse } from '../../core/mail/places';
import { READER } from '../../core/mail/reading';
import { applyEdits, type Edit } from '../../core/rules/edit';
import { unfitFor, withProfile } from '../../core/rules/profile';
import type { Chain } from '../../core/rules/rule';
import { ownJson } from '../../core/text/lookup';
import { CHAIN_FORMAT } from '../../files/chain-document';
import { Region } from '../cache/region';
import { inTransaction, type Store } from '../database/open';
import { audits, changes, probes, sources } from '../database/schema';
import { written } from '../database/written';

/** An audit: the imported chain, and the draft with all changes that are not undone. */
export interface Audit {
  readonly id: string;
  readonly name: string;
  readonly ownAddresses: readonly string[];
  /** Whether the user has confirmed the own addresses; if so, addresses found later are ignored. */
  readonly addressesConfirmed: boolean;
  readonly messageCount: number;
  /** Its number in the full-text index. */
  readonly ordinal: number;
  /** The current date that rules see, the same whenever the audit is looked at. */
  readonly clock: Clock;
  /** The envelope recipient of messages that do not name theirs: the first own address. */
  readonly recipient: string | null;
  /** Whether sent messages take part too. */
  readonly withSent: boolean;
  /** The header field that names the places of messages, in lower case; null for the folders of the files. */
  readonly placeField: string | null;
  /** What folders are for, where their server says so. */
  readonly folderUses: ReadonlyMap<string, FolderUse>;
  /** The version of the mail reader that read its mail. */
  readonly reader: number;
  /** Present messages: all that have numbers, except those that only removed sources contain. */
  readonly storedCount: number;
  /** Ids of the sources of mail that were removed. */
  readonly removedSources: readonly string[];
  /** Increases whenever a number can mean another message: mail was reread, removed or restored. */
  readonly edition: string;
  /** Names the kept probes: another set of them has another name. */
  readonly probes: string;
  readonly baseline: Chain;
  readonly draft: Chain;
}

/** An error the user can understand and act on; route handlers show its message. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: 400 | 403 | 404 | 409 | 413 | 422 = 400,
  ) {
    super(message);
  }
}

const EMPTY: Chain = { entries: [], closing: '' };

export function createAudit(store: Store, name: string, id: string = randomUUID()): string {
  inTransaction(store, (tx) => {
    const last = tx
      .select({ ordinal: max(audits.ordinal) })
      .from(audits)
      .get();
    const row = {
      id,
      name,
      createdAt: Date.now(),
      chain: EMPTY,
      chainFormat: CHAIN_FORMAT,
      ownAddresses: [],
      messageCount: 0,
    };
    tx.insert(audits)
      .values({ ...row, reader: READER, ordinal: (last?.ordinal ?? 0) + 1 })
      .run();
  });
  return id;
}

/**
 * Sets the user's own addresses; returns them normalised to lower case without duplicates. Throws a refusal for an
 * invalid address.
 */
export function setOwnAddresses(store: Store, id: string, addresses: readonly string[]): string[] {
  getAudit(store, id);
  const broken = addresses.find((address) => maybeSingleAddress(address) === null);
  if (broken !== undefined) throw new Refusal(`“${broken}” is not a single complete address.`, 422);
  const own = [...new Set(addresses.map((address) => address.toLowerCase()))];
  store.update(audits).set({ ownAddresses: own, addressesConfirmed: true }).where(eq(audits.id, id)).run();
  return own;
}

/** Sets the current date that rules see, in milliseconds since 1970; null for the time when each message arrived. */
export function setClock(store: Store, id: string, time: number | null): void {
  getAudit(store, id);
  store.update(audits).set({ clock: time }).where(eq(audits.id, id)).run();
}

/** Sets whether sent messages take part in flows and findings. */
export function setWithSent(store: Store, id: string, withSent: boolean): void {
  getAudit(store, id);
  store.update(audits).set({ withSent }).where(eq(audits.id, id)).run();
}

/** The demo audit has a fixed id, so that it is created only once. */
export const DEMO_AUDIT = 'demo';

/** Newest first, without their rules, which may be megabytes. */
export function listAudits(store: Store) {
  const { id, name, createdAt, messageCount, removedCount } = audits;
  return store
    .select({ id, name, createdAt, messageCount, removedCount })
    .from(audits)
    .where(eq(audits.deleted, false))
    .orderBy(desc(audits.createdAt))
    .all();
}

export function maybeAudit(store: Store, id: string): Audit | null {
  // The chain is loaded separately, if it is not cached.
  const { chain: _, ...columns } = getTableColumns(audits);
  const row = store
    .select(columns)
    .from(audits)
    .where(and(eq(audits.id, id), eq(audits.deleted, false)))
    .get();
  if (!row) return null;
  const { baseline, draft } = chainsOf(store, id);
  const { ownAddresses } = row;
  return {
    id,
    name: row.name,
    ownAddresses,
    addressesConfirmed: row.addressesConfirmed,
    messageCount: row.messageCount,
    ordinal: row.ordinal,
    clock: { fixed: row.clock, otherwise: row.createdAt },
    recipient: ownAddresses[0] ?? null,
    withSent: row.withSent,
    placeField: row.placeField,
    folderUses: new Map(Object.entries(row.folderUses)),
    reader: row.reader,
    storedCount: row.messageCount - row.removedCount,
    removedSources: row.mailEdition > 0 ? removedSources(store, id) : [],
    edition: `${row.messageCount} ${row.reader} ${row.mailEdition}`,
    probes: probesOf(store, id),
    baseline,
    draft,
  };
}

function removedSources(store: Store, auditId: string): string[] {
  const rows = store
    .select({ id: sources.id })
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.state, 'removed')));
  return rows.all().map(({ id }) => id);
}

/** Probes are never changed, so their numbers name them. */
function probesOf(store: Store, auditId: string): string {
  const rows = store.select({ id: probes.id }).from(probes).where(eq(probes.auditId, auditId)).orderBy(asc(probes.id));
  return rows
    .all()
    .map(({ id }) => id)
    .join();
}

/** How the rules are run is no change to them, so what was imported is run like the draft, as far as it can be. */
function runAlike(baseline: Chain, { profile }: Chain): Chain {
  if (baseline.profile === profile || (profile && unfitFor(baseline).length > 0)) return baseline;
  return withProfile(baseline, profile ?? null);
}

interface Chains {
  readonly baseline: Chain;
  readonly draft: Chain;
}

/** Cache of parsed chains: the same object for the same text, so that results cached per object are found again. */
const recentChains = new Region<Chains>({
  name: 'chains',
  most: 512 * 1024 * 1024,
  // Of each character of JSON, about four octets of objects, in two chains that share most of them.
  weigh: ({ draft }) => 4 * (sizes.get(draft) ?? 0),
  entries: 12,
});

function chainsOf(store: Store, id: string): Chains {
  const row = store
    .select({ chain: written(audits.chain) })
    .from(audits)
    .where(eq(audits.id, id))
    .get();
  if (!row) throw new Error(`there is no audit ${id}`);
  const { chain } = row;
  const edits = editsOf(store, id);
  const name = createHash('sha256').update(`${id} ${chain}`).update(edits.join(' ')).digest('base64');
  const known = recentChains.get(name);
  if (known) return known;
  const baseline = ownJson<Chain>(chain);
  const applied = applyEdits(
    baseline,
    edits.flatMap((text) => ownJson<Edit[]>(text)),
  );
  if (!applied.ok) throw new Error(`the changes of audit ${id} no longer apply: ${applied.reason}`);
  const chains = { baseline: runAlike(baseline, applied.chain), draft: applied.chain };
  sizes.set(
    chains.draft,
    edits.reduce((sum, text) => sum + text.length, chain.length),
  );
  recentChains.set(name, chains);
  return chains;
}

const sizes = new WeakMap<Chain, number>();

/** Characters of the JSON from which the draft of an audit was read; 0 for any other chain. */
export const sizeOfDraft = ({ draft }: Audit): number => sizes.get(draft) ?? 0;

/** Throws a refusal if there is no such audit. */
export function getAudit(store: Store, id: string): Audit {
  const audit = maybeAudit(store, id);
  if (!audit) throw new Refusal('There is no such audit.', 404);
  return audit;
}

/** The edits that are not undone, as JSON, change by change. */
function editsOf(store: Store, auditId: string): string[] {
  return store
    .select({ edits: written(changes.edits) })
    .from(changes)
    .where(and(eq(changes.auditId, auditId), eq(changes.undone, false)))
    .orderBy(asc(changes.id))
    .all()
    .map(({ edits }) => edits);
}
