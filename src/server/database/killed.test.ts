import { spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { beforeEach, describe, expect, test } from 'vitest';
import { addFile, audit, fill, id, root, store, withAudit, work } from '../../../test/harness';
import { applyEdits } from '../../core/rules/edit';
import { archiveOf, auditFromArchive } from '../audits/archive';
import { getAudit, listAudits } from '../audits/audits';
import { makeChange } from '../changes/changes';
import { keepHanded, listHanded, maybeHanded, scriptHash } from '../handover/handover';
import { databaseFile, openStore, type Store } from './open';
import { isDiskFull } from './reserve';
import { sources } from './schema';

/** What a killed process, or a full disk, leaves: the data as before or after, never in between. */

withAudit();
beforeEach(fill);

const SERVER = join(import.meta.dirname, '..');

/**
 * Runs code repeatedly in a process of its own on the test database, and kills the process after a number of completed
 * runs; returns how many it reported in the end.
 */
async function killedAfter(times: number, imports: string, again: string): Promise<number> {
  const file = join(root, `killed-${times}.mts`);
  const code = `import { openStore } from '${SERVER}/database/open';
${imports.replaceAll("'../", `'${SERVER}/`)}
const store = openStore(${JSON.stringify(databaseFile())});
const id = ${JSON.stringify(id)};
for (let n = 0; ; n++) {
  ${again}
  process.stdout.write(n + '\\n');
}`;
  writeFileSync(file, code);
  const child = spawn(process.execPath, ['--import', 'tsx', file], { stdio: ['ignore', 'pipe', 'pipe'] });
  let said = 0;
  let errors = '';
  child.stderr.on('data', (chunk) => {
    errors += chunk;
  });
  for await (const _line of createInterface(child.stdout)) {
    said++;
    if (said === times) child.kill('SIGKILL');
  }
  if (said < times) throw new Error(`it ended by itself: ${errors}`);
  return said;
}

/** The database as the next process finds it. */
function reopened(): Store {
  const found = openStore(databaseFile());
  expect(found.$client.pragma('integrity_check')).toEqual([{ integrity_check: 'ok' }]);
  expect(found.$client.pragma('foreign_key_check')).toEqual([]);
  return found;
}

describe('a process that is killed', () => {
  // Kills each time at another moment after the last report.
  test.each([1, 4, 9])('while it makes and undoes changes (%i)', async (times) => {
    const said = await killedAfter(
      times,
      "import { makeChange, undo } from '../changes/changes';",
      "makeChange(store, id, [{ kind: 'switch', id: 'r1', on: n % 2 === 1 }, { kind: 'switch', id: 'r2', on: n % 2 === 1 }], 'why');",
    );
    const after = getAudit(reopened(), id);
    const made = archiveOf(store, id).changes;
    // It may have completed one more run that it could not report.
    expect([said, said + 1]).toContain(made.length);
    expect(after.draft).toEqual(
      (
        applyEdits(
          after.baseline,
          made.flatMap(({ edits }) => edits),
        ) as { chain: unknown }
      ).chain,
    );
    const [one, two] = after.draft.entries;
    expect(one?.on).toBe(two?.on);
  });

  test.each([1, 6])('while it keeps what is handed over (%i)', async (times) => {
    const said = await killedAfter(
      times,
      "import { keepHanded, keepHandoverSettings, handoverSettings } from '../handover/handover';",
      "keepHandoverSettings(store, id, { ...handoverSettings(store, id), accepted: [String(n)] }); keepHanded(store, id, 'a file', '# ' + n + 'x'.repeat(100_000));",
    );
    const found = reopened();
    const kept = listHanded(found, id);
    expect([said, said + 1]).toContain(kept.length);
    for (const { id: handed, hash } of kept) expect(scriptHash(maybeHanded(found, id, handed) ?? '')).toBe(hash);
  });

  test.each([1, 5])('while it opens archives (%i)', async (times) => {
    makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], 'why');
    const archive = archiveOf(store, id);
    const said = await killedAfter(
      times,
      `import { auditFromArchive } from '../audits/archive';\nconst archive = ${JSON.stringify(archive)};`,
      'auditFromArchive(store, archive);',
    );
    const found = reopened();
    const audits = listAudits(found).filter((one) => one.id !== id);
    expect([said, said + 1]).toContain(audits.length);
    for (const one of audits) expect(archiveOf(found, one.id)).toEqual(archive);
  });
});

describe('a disk that is full', () => {
  /** Behaves as if the disk had no more room than the database uses now. */
  const fillDisk = () => {
    const pages = Number(store.$client.pragma('page_count', { simple: true }));
    store.$client.pragma(`max_page_count = ${pages}`);
  };

  test('leaves changes, archives and hand-overs as they were, and says so', () => {
    const before = archiveOf(store, id);
    fillDisk();
    const big = 'x'.repeat(1_000_000);
    for (const attempt of [
      () => makeChange(store, id, [{ kind: 'list', id: 'l', from: null, to: { id: 'l', name: 'L', keys: [big] } }], ''),
      () => keepHanded(store, id, 'a file', big),
      () =>
        auditFromArchive(store, { ...before, probes: [{ name: 'p', raw: 'AAAA'.repeat(250_000), expected: null }] }),
    ]) {
      expect(attempt).toThrow();
      try {
        attempt();
      } catch (error) {
        expect(isDiskFull(error)).toBe(true);
      }
    }
    expect(archiveOf(store, id)).toEqual(before);
    expect(listAudits(store)).toHaveLength(1);
  });

  test('ends an import, which says so and keeps nothing', async () => {
    const many = Array.from(
      { length: 3000 },
      (_, n) => `From x@y.example Thu Jan  1 10:00:00 2026\nSubject: ${n} ${Math.sin(n)}\n\n${Math.cos(n)}\n\n`,
    );
    await addFile('Yard.mbox', many.join(''));
    const count = audit().messageCount;
    fillDisk();
    await work();
    expect(audit().messageCount).toBe(count);
    const [, source] = store.select().from(sources).all();
    expect(source).toMatchObject({ state: 'refused', messages: 0 });
    expect(source?.statement).toContain('The disk of the server is full');
  });
});
