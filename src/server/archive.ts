import { asc, eq } from 'drizzle-orm';
import { z } from 'zod';
import { expectationFault } from '../core/repair/expectations';
import { applyEdits } from '../core/rules/edit';
import type { Chain } from '../core/rules/rule';
import { createAudit, getAudit, Refusal, setOwnAddresses } from './audits';
import { entryShape, namedListShape } from './chain-shape';
import { faultsOf } from './changes';
import type { Store } from './database/open';
import { audits, changes, expectations, handovers, probes, versions } from './database/schema';
import { editShape, expectationShape, settingsShape } from './shapes';

const ids = z.int().min(0);
const chainShape: z.ZodType<Chain> = z.object({
  entries: z.array(entryShape).max(100_000),
  closing: z.string(),
  lists: z.array(namedListShape).max(10_000).optional(),
});

/** A whole audit but for its mail, as it is written to a file and read back. */
export const archiveShape = z.object({
  format: z.literal('ysomeris-audit'),
  version: z.literal(1),
  name: z.string().trim().min(1).max(200),
  ownAddresses: z.array(z.string().max(500)).max(500),
  /** The rules as they were brought in. */
  baseline: chainShape,
  /** In the order in which they were made; those that are undone stand at the end. */
  changes: z
    .array(
      z.object({
        edits: z.array(editShape).max(10_000),
        words: z.string().max(10_000),
        why: z.string().max(10_000),
        changedMessages: ids,
        undone: z.boolean(),
        createdAt: ids,
      }),
    )
    .max(100_000),
  versions: z.array(z.object({ name: z.string().max(200), chain: chainShape, createdAt: ids })).max(1000),
  expectations: z.array(expectationShape).max(1000),
  /** Made-up messages, their octets in base64 (RFC 4648 section 4). */
  probes: z
    .array(z.object({ name: z.string().max(200), raw: z.base64(), expected: z.string().max(2000).nullable() }))
    .max(1000),
  /** For whom the script is written; null where that was never set. */
  handover: settingsShape.nullable(),
});

export type Archive = z.infer<typeof archiveShape>;

/** The schema of archives (JSON Schema, draft 2020-12). */
export const archiveSchema = (): object => ({
  title: 'An audit of incoming-mail rules',
  ...z.toJSONSchema(archiveShape, { io: 'input' }),
});

/** An audit as an archive. */
export function archiveOf(store: Store, auditId: string): Archive {
  const { name, ownAddresses, baseline } = getAudit(store, auditId);
  const settings = store.select().from(handovers).where(eq(handovers.auditId, auditId)).get();
  return {
    format: 'ysomeris-audit',
    version: 1,
    name,
    ownAddresses: [...ownAddresses],
    baseline,
    changes: store
      .select()
      .from(changes)
      .where(eq(changes.auditId, auditId))
      .orderBy(asc(changes.id))
      .all()
      .map(({ edits, words, why, changedMessages, undone, createdAt }) => {
        return { edits: JSON.parse(edits), words, why, changedMessages, undone, createdAt };
      }),
    versions: store
      .select()
      .from(versions)
      .where(eq(versions.auditId, auditId))
      .orderBy(asc(versions.id))
      .all()
      .map((version) => ({ name: version.name, chain: JSON.parse(version.chain), createdAt: version.createdAt })),
    expectations: store
      .select()
      .from(expectations)
      .where(eq(expectations.auditId, auditId))
      .orderBy(asc(expectations.id))
      .all()
      .map(({ statement }) => JSON.parse(statement)),
    probes: store
      .select()
      .from(probes)
      .where(eq(probes.auditId, auditId))
      .orderBy(asc(probes.id))
      .all()
      .map(({ name: called, raw, expected }) => ({ name: called, raw: raw.toString('base64'), expected })),
    handover: settings ? JSON.parse(settings.settings) : null,
  };
}

/** Makes an audit of an archive, all of it or nothing; its mail is brought in anew. Throws a refusal for what is none. */
export function auditFromArchive(store: Store, text: string): string {
  const archive = read(text);
  const standing = archive.changes.filter(({ undone }) => !undone);
  const applied = applyEdits(
    archive.baseline,
    standing.flatMap(({ edits }) => edits),
  );
  if (!applied.ok)
    throw new Refusal(`The archive is damaged: its changes do not fit its rules, since ${applied.reason}.`, 422);
  for (const chain of [archive.baseline, applied.chain, ...archive.versions.map((version) => version.chain)]) {
    const [fault] = faultsOf(chain);
    if (fault !== undefined) throw new Refusal(`The archive is damaged: ${fault}.`, 422);
  }
  const fault = archive.expectations.map(expectationFault).find((words) => words !== null);
  if (fault) throw new Refusal(`The archive is damaged: ${fault}`, 422);
  return store.transaction((tx) => {
    const same = tx as unknown as Store;
    const auditId = createAudit(same, archive.name);
    if (archive.ownAddresses.length > 0) setOwnAddresses(same, auditId, archive.ownAddresses);
    same
      .update(audits)
      .set({ chain: JSON.stringify(archive.baseline) })
      .where(eq(audits.id, auditId))
      .run();
    for (const { edits, ...change } of archive.changes) {
      same
        .insert(changes)
        .values({ auditId, edits: JSON.stringify(edits), ...change })
        .run();
    }
    for (const { chain, ...version } of archive.versions) {
      same
        .insert(versions)
        .values({ auditId, chain: JSON.stringify(chain), ...version })
        .run();
    }
    for (const statement of archive.expectations) {
      same
        .insert(expectations)
        .values({ auditId, statement: JSON.stringify(statement), createdAt: Date.now() })
        .run();
    }
    for (const { raw, ...probe } of archive.probes) {
      same
        .insert(probes)
        .values({ auditId, raw: Buffer.from(raw, 'base64'), ...probe, createdAt: Date.now() })
        .run();
    }
    if (archive.handover)
      same
        .insert(handovers)
        .values({ auditId, settings: JSON.stringify(archive.handover) })
        .run();
    return auditId;
  });
}

function read(text: string): Archive {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new Refusal('This file is no archive: it is not JSON, or it is cut off.', 422);
  }
  const head = z.object({ format: z.string(), version: z.unknown() }).safeParse(data);
  if (!head.success || head.data.format !== 'ysomeris-audit')
    throw new Refusal('This file is no archive of an audit.', 422);
  if (head.data.version !== 1) {
    throw new Refusal(`This archive is of version ${String(head.data.version)}; version 1 is read here.`, 422);
  }
  const found = archiveShape.safeParse(data);
  if (found.success) return found.data;
  const [issue] = found.error.issues;
  throw new Refusal(`The archive is damaged at ${issue?.path.join('.') || 'its head'}: ${issue?.message ?? ''}.`, 422);
}
