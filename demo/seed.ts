import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { and, eq, inArray } from 'drizzle-orm';
import { createAudit, DEMO_AUDIT as DEMO, maybeAudit } from '../src/server/audits/audits';
import { appRoot, databaseFile, type Store, store } from '../src/server/database/open';
import { DatabaseInUse, own } from '../src/server/database/owner';
import { sources } from '../src/server/database/schema';
import { DatabaseTrouble } from '../src/server/database/trouble';
import { fileBody, importFile } from '../src/server/gather/import-file';
import { dismissReceipts } from '../src/server/gather/uploads';
import { JobRunner } from '../src/server/jobs/runner';
import { upgradeStore } from '../src/server/lifecycle/upgrade';
import { writeDemo } from './write';

/** Writes the demo data and imports it into an audit of its own, unless that is done already. */
async function seed(): Promise<void> {
  own(databaseFile(), 'the seeding of the demo');
  const db = store();
  upgradeStore(db);
  const runner = new JobRunner(db);
  runner.recover();
  const root = join(databaseFile(), '..', 'demo');
  if (isComplete(db, root)) return;
  const files = writeDemo(root, [appRoot(), 'demo', 'rules.sieve'].join('/'));
  if (!maybeAudit(db, DEMO)) createAudit(db, 'Hollin Weir Mill Trust', DEMO);
  if (maybeAudit(db, DEMO)?.baseline.entries.length === 0) {
    await importFile(db, runner, DEMO, 'rules.sieve', fileBody(join(root, 'rules.sieve')));
  }
  // Imports that an earlier seeding was killed in are repeated; what it finished, or the user removed since, stays as it is.
  db.delete(sources).where(unfinished()).run();
  const known = db.select({ fileName: sources.fileName }).from(sources).where(eq(sources.auditId, DEMO)).all();
  const missing = files.filter(({ folder }) => !known.some(({ fileName }) => fileName === `${folder}.mbox`));
  for (const { file, folder } of missing) {
    await importFile(db, runner, DEMO, `${folder}.mbox`, fileBody(file), { folder });
  }
  if (missing.length > 0) {
    await idle(runner);
    // These files were not dropped by a user.
    dismissReceipts(db, DEMO, null);
    await runner.close();
  }
  writeFileSync(join(root, COMPLETE), '');
}

/** The name of an empty file beside the demo data, written once all of it is imported. */
const COMPLETE = 'complete';

/**
 * Whether nothing is left to import, so that the demo data, which takes seconds to generate, is not generated again.
 */
function isComplete(db: Store, root: string): boolean {
  if (!existsSync(join(root, COMPLETE)) || !maybeAudit(db, DEMO)?.baseline.entries.length) return false;
  return db.select().from(sources).where(unfinished()).get() === undefined;
}

const unfinished = () => and(eq(sources.auditId, DEMO), inArray(sources.state, ['importing', 'interrupted']));

/** Waits until no job of the demo is running. */
function idle(runner: JobRunner): Promise<void> {
  return new Promise((resolve) => {
    const look = () => {
      if (runner.isBusy(DEMO)) return;
      stop();
      resolve();
    };
    const stop = runner.listen(DEMO, look);
    look();
  });
}

try {
  await seed();
} catch (error) {
  // The server says the same on its pages, and works once the trouble is over.
  if (error instanceof DatabaseTrouble) console.error(`The demo is not prepared. ${error.message} ${error.remedy}`);
  else if (error instanceof DatabaseInUse) {
    console.error(error.message);
    process.exitCode = 1;
  } else throw error;
}
