import { randomUUID } from 'node:crypto';
import { and, asc, eq } from 'drizzle-orm';
import type { SQLiteColumn } from 'drizzle-orm/sqlite-core';
import { z } from 'zod';
import { maybeSingleAddress } from '../../core/mail/address';
import { expectationFault } from '../../core/repair/expectations';
import { applyEdits } from '../../core/rules/edit';
import { isSame } from '../../core/rules/same';
import { type ArchivedMail, archivedMailShape } from '../../files/archive-file';
import { inFormOfToday } from '../../files/chain-document';
import { chainShape } from '../../files/chain-shape';
import { faultsOf } from '../changes/changes';
import { inTransaction, type Store } from '../database/open';
import {
  audits,
  changes,
  declined,
  expectations,
  handed,
  handovers,
  messages,
  probes,
  scripts,
  setAsideFindings,
  versions,
} from '../database/schema';
import { maybeHandoverSettings, scriptHash } from '../handover/handover';
import { presentNumbers } from '../mail/message-numbers';
import { maybeRaw } from '../mail/raw';
import { type Archive, archiveShape } from './archive-shape';
import { createAudit, getAudit, Refusal } from './audits';

/** An audit without its mail, as it is exported. */
export function archiveOf(store: Store, auditId: string): Archive {
  const { name, ownAddresses, addressesConfirmed, clock, withSent, placeField, folderUses, baseline, draft } = getAudit(
    store,
    auditId,
  );
  const rowsOf = rowsIn(store, auditId);
  const made = rowsOf(changes, changes.id);
  const stated = rowsOf(expectations, expectations.id);
  return {
    format: 'ysomeris-audit',
    version: 1,
    name,
    ownAddresses: [...ownAddresses],
    addressesConfirmed,
    clock: clock.fixed,
    withSent,
    placeField,
    folderUses: Object.fromEntries(folderUses),
    scripts: rowsOf(scripts, scripts.createdAt).map(
      ({ id: _id, auditId: _audit, faults, faultEntries, entries, ...script }) => {
        return { ...script, faults, faultEntries, entries };
      },
    ),
    baseline,
    changes: made.map(({ edits, words, why, changedMessages, undone, origin, undoes, createdAt }) => {
      const index = undoes === null ? -1 : made.findIndex(({ id }) => id === undoes);
      const answer = origin && stated.findIndex(({ id }) => id === origin.answer);
      return {
        edits,
        words,
        why,
        changedMessages,
        undone,
        origin: origin && { ...origin, answer: orNull(answer ?? -1) },
        undoes: orNull(index),
        createdAt,
      };
    }),
    draft,
    versions: rowsOf(versions, versions.id).map((version) => {
      return { name: version.name, chain: version.chain, createdAt: version.createdAt };
    }),
    expectations: stated.map(({ statement, message }) => ({ ...statement, message })),
    declined: rowsOf(declined, declined.createdAt).map(({ kind, what, reason, createdAt }) => {
      return { kind, what, reason, createdAt };
    }),
    probes: rowsOf(probes, probes.id).map(({ name: called, raw, expected }) => {
      return { name: called, raw: raw.toString('base64'), expected };
    }),
    asides: rowsOf(setAsideFindings, setAsideFindings.key).map(({ key, facts, reason, createdAt }) => ({
      key,
      facts,
      reason,
      createdAt,
    })),
    handover: maybeHandoverSettings(store, auditId),
    handed: rowsOf(handed, handed.id).map(({ place, script, createdAt }) => ({ place, script, createdAt })),
  };
}

type AuditTable =
  | typeof scripts
  | typeof changes
  | typeof versions
  | typeof expectations
  | typeof declined
  | typeof probes
  | typeof setAsideFindings
  | typeof handed;

/** Loads the rows of an audit from a table, in order. Drizzle's builder for a generic table loses the row type. */
const rowsIn =
  (store: Store, auditId: string) =>
  <Table extends AuditTable>(table: Table, order: SQLiteColumn): Table['$inferSelect'][] =>
    store
      .select()
      .from(table as AuditTable)
      .where(eq(table.auditId, auditId))
      .orderBy(asc(order))
      .all() as Table['$inferSelect'][];

/**
 * Yields the JSON of an exported audit piece by piece; mail one message at a time, so that it may be larger than
 * memory.
 */
export function* archiveText(store: Store, auditId: string, withMail: boolean): Generator<string, void, undefined> {
  const text = JSON.stringify(archiveOf(store, auditId), null, 1);
  if (!withMail) {
    yield `${text}\n`;
    return;
  }
  yield `${text.slice(0, text.lastIndexOf('\n}'))},\n "mail": [`;
  let before = '\n';
  for (const number of presentNumbers(store, getAudit(store, auditId))) {
    yield `${before}  ${JSON.stringify(archivedMail(store, auditId, number))}`;
    before = ',\n';
  }
  yield '\n ]\n}\n';
}

function archivedMail(store: Store, auditId: string, number: number): ArchivedMail {
  const key = { auditId: messages.auditId, number: messages.number };
  const row = store
    .select()
    .from(messages)
    .where(and(eq(key.auditId, auditId), eq(key.number, number)))
    .get();
  const raw = maybeRaw(store, auditId, number);
  if (!row || !raw) throw new Error(`message ${number} is not stored`);
  const { received, fromLine } = row;
  const oddities = archivedMailShape.shape.oddities.element;
  return {
    folder: row.asFile?.folder ?? row.folder,
    flags: [...row.flags],
    received,
    fromLine,
    // The other fields are derived again when it is read.
    oddities: row.oddities.flatMap((one) => oddities.safeParse(one).data ?? []),
    raw: raw.toString('base64'),
  };
}

/**
 * Creates an audit from an exported one, completely or not at all, without its mail. Throws a refusal if it is not
 * valid.
 */
export function auditFromArchive(store: Store, data: unknown): string {
  const archive = read(data);
  const fault = faultIn(archive);
  if (fault !== null) throw new Refusal(`The exported audit is damaged: ${fault}`, 422);
  return inTransaction(store, (tx) => {
    const auditId = createAudit(tx, archive.name);
    const { ownAddresses, addressesConfirmed, clock, withSent, placeField, folderUses, baseline } = archive;
    tx.update(audits)
      .set({
        chain: baseline,
        ownAddresses,
        addressesConfirmed,
        clock,
        withSent,
        placeField,
        folderUses,
      })
      .where(eq(audits.id, auditId))
      .run();
    for (const script of archive.scripts) {
      tx.insert(scripts)
        .values({ id: randomUUID(), auditId, ...script })
        .run();
    }
    const answers = archive.expectations.map(({ message, ...statement }) => {
      const row = { auditId, statement, message, createdAt: Date.now() };
      return Number(tx.insert(expectations).values(row).run().lastInsertRowid);
    });
    const made: number[] = [];
    for (const { origin, undoes, ...change } of archive.changes) {
      const row = {
        ...change,
        auditId,
        origin: origin && { ...origin, answer: at(answers, origin.answer) },
        undoes: at(made, undoes),
      };
      made.push(Number(tx.insert(changes).values(row).run().lastInsertRowid));
    }
    for (const one of archive.declined) {
      tx.insert(declined)
        .values({ auditId, ...one })
        .onConflictDoNothing()
        .run();
    }
    for (const version of archive.versions) {
      tx.insert(versions)
        .values({ auditId, ...version })
        .run();
    }
    for (const { raw, ...probe } of archive.probes) {
      tx.insert(probes)
        .values({ auditId, raw: Buffer.from(raw, 'base64'), ...probe, createdAt: Date.now() })
        .run();
    }
    for (const aside of archive.asides)
      tx.insert(setAsideFindings)
        .values({ auditId, ...aside })
        .onConflictDoNothing()
        .run();
    if (archive.handover) {
      tx.insert(handovers).values({ auditId, settings: archive.handover }).run();
    }
    for (const one of archive.handed) {
      tx.insert(handed)
        .values({ auditId, scriptHash: scriptHash(one.script), ...one })
        .run();
    }
    return auditId;
  });
}

const orNull = (index: number): number | null => (index < 0 ? null : index);
const at = (ids: readonly number[], index: number | null): number | null =>
  index === null ? null : (ids[index] ?? null);

/** An inconsistency between well-formed parts of an exported audit; null if there is none. */
function faultIn({
  baseline,
  changes: made,
  draft,
  versions: kept,
  expectations: stated,
  ownAddresses,
}: Archive): string | null {
  const standing = made.filter(({ undone }) => !undone);
  const applied = applyEdits(
    baseline,
    standing.flatMap(({ edits }) => edits),
  );
  if (!applied.ok) return `its changes do not fit its rules: ${applied.reason}.`;
  const drafted = chainShape.parse(JSON.parse(JSON.stringify(applied.chain)));
  if (draft && !isSame(draft, drafted)) return 'its draft does not match its rules and changes.';
  for (const chain of [baseline, applied.chain, ...kept.map((version) => version.chain)]) {
    const [fault] = faultsOf(chain);
    if (fault !== undefined) return `${fault}.`;
  }
  const broken = ownAddresses.find((address) => maybeSingleAddress(address) === null);
  if (broken !== undefined) return `“${broken}” is not a single complete address.`;
  return stated.map(expectationFault).find((words) => words !== null) ?? null;
}

function read(data: unknown): Archive {
  const head = z.object({ format: z.string(), version: z.unknown() }).safeParse(data);
  if (!head.success || head.data.format !== 'ysomeris-audit')
    throw new Refusal('This file is not an exported audit.', 422);
  if (head.data.version !== 1) {
    throw new Refusal(
      `This exported audit has version ${String(head.data.version)}; only version 1 can be opened.`,
      422,
    );
  }
  // Its rules may have been written by an earlier version.
  const found = archiveShape.safeParse(inFormOfToday(data));
  if (found.success) return found.data;
  const [issue] = found.error.issues;
  throw new Refusal(
    `The exported audit is damaged at ${issue?.path.join('.') || 'its head'}: ${issue?.message ?? ''}.`,
    422,
  );
}
