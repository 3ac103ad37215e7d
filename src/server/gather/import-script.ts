import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { and, eq, inArray } from 'drizzle-orm';
import { joinChains } from '../../core/rules/lists';
import type { Chain } from '../../core/rules/rule';
import { countFault, entanglementFault } from '../../files/chain-shape';
import { rulesForm } from '../../files/rules/forms';
import { Refusal } from '../audits/audits';
import { refuseOverweight } from '../audits/size-limit';
import { inTransaction, type Store } from '../database/open';
import { audits, changes, scripts, sources } from '../database/schema';
import { written } from '../database/written';
import { neither, type Taken } from './file-kind';
import { AlreadyThere, type Imported, type RulesRead, type RulesReader } from './rules-file';

/** Throws if the identical file is already imported. */
export function refuseTwice(store: Store, auditId: string, digest: string): void {
  const [script] = store
    .select()
    .from(scripts)
    .where(and(eq(scripts.auditId, auditId), eq(scripts.digest, digest)))
    .all();
  if (script) throw new AlreadyThere(script.fileName, 'script', script.id);
  const source = store
    .select()
    .from(sources)
    .where(
      and(eq(sources.auditId, auditId), eq(sources.digest, digest), inArray(sources.state, ['ready', 'importing'])),
    )
    .get();
  if (source) throw new AlreadyThere(source.fileName, 'mail', source.id);
}

/** The rules of a file; throws a refusal if it contains none. `me` are the user's own addresses. */
export async function rulesIn(
  file: string,
  fileName: string,
  kind: Exclude<Taken, 'mail'>,
  { reader, me }: { readonly reader: RulesReader; readonly me: readonly string[] },
): Promise<RulesRead> {
  const octets = await readFile(file);
  // Prose is no list of rules in sentences.
  if (kind === 'perhaps' && rulesForm(fileName, octets) === 'sentences') throw neither(fileName);
  const read = await reader(fileName, octets, me);
  if (read.chain.entries.length === 0) throw new Refusal(`“${fileName}” contains no rules.`, 422);
  // A file without a telling name is a script if part of it is valid.
  const works = read.chain.entries.some((entry) => entry.kind === 'rule' || entry.works);
  if (kind === 'perhaps' && !works) throw neither(fileName);
  return read;
}

/** Adds rules after those of the draft. */
export function importScript(
  store: Store,
  auditId: string,
  fileName: string,
  digest: string,
  { chain: added, source, faults }: RulesRead,
): Imported {
  const { entries } = added;
  const blocks = entries.filter((entry) => entry.kind === 'script').length;
  const id = randomUUID();
  inTransaction(store, (tx) => {
    // The same file may have been imported meanwhile.
    refuseTwice(tx, auditId, digest);
    const row = tx.select().from(audits).where(eq(audits.id, auditId)).get();
    const before: Chain = row?.chain ?? { entries: [], closing: '' };
    const chain = joinChains(before, added, largestIdInChanges(tx, auditId));
    const limit = countFault(chain) ?? entanglementFault(chain);
    if (limit !== null) throw new Refusal(`“${fileName}” exceeds a limit: ${limit}. Nothing was imported.`, 413);
    const made = chain.entries.slice(before.entries.length).map((entry) => entry.id);
    tx.update(audits).set({ chain }).where(eq(audits.id, auditId)).run();
    keepScript(tx, auditId, { id, fileName, digest }, { chain: added, source, faults }, made);
  });
  return {
    kind: 'script',
    target: id,
    statement: statementOf(fileName, entries.length - blocks, blocks, faults.length),
  };
}

/** `made` are the ids of its entries in the chain. */
export function keepScript(
  store: Store,
  auditId: string,
  file: { readonly id: string; readonly fileName: string; readonly digest: string },
  { chain, source, faults }: RulesRead,
  made: readonly string[],
): void {
  const blocks = chain.entries.filter((entry) => entry.kind === 'script').length;
  store
    .insert(scripts)
    .values({
      ...file,
      auditId,
      source,
      rules: chain.entries.length - blocks,
      blocks,
      faults: faults.map(({ words }) => words),
      faultEntries: faults.map(({ entry }) => (entry === null ? null : (made[entry] ?? null))),
      entries: made,
      createdAt: Date.now(),
    })
    .run();
  refuseOverweight(store, auditId);
}

/** The largest number among the ids of rules that changes have added; ids of imported rules start after it. */
export function largestIdInChanges(store: Store, auditId: string): number {
  const rows = store
    .select({ edits: written(changes.edits) })
    .from(changes)
    .where(eq(changes.auditId, auditId))
    .all();
  let largest = 0;
  for (const { edits } of rows) {
    for (const [, number] of edits.matchAll(/"id":"r(\d{1,9})"/g)) largest = Math.max(largest, Number(number));
  }
  return largest;
}

function statementOf(fileName: string, rules: number, blocks: number, faults: number): string {
  const parts = [`${rules} ${rules === 1 ? 'rule' : 'rules'}`];
  if (blocks > 0) parts.push(`${blocks} kept word for word`);
  if (faults > 0) parts.push(`${faults} ${faults === 1 ? 'fault' : 'faults'}`);
  return `“${fileName}”: ${parts.join(', ')}.`;
}
