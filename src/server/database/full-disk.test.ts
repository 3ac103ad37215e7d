import { spawnSync } from 'node:child_process';
import { closeSync, existsSync, mkdirSync, openSync, rmSync, statfsSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, expect, test, vi } from 'vitest';
import { body, FROM, root, withAudit } from '../../../test/harness';
import { atOnce } from '../../core/audit/stepwise';
import { createAudit, listAudits } from '../audits/audits';
import { deletion } from '../audits/deletion';
import { importFile } from '../gather/import-file';
import type { JobRequest } from '../jobs/job';
import { perform } from '../jobs/perform';
import { migrateStore, type OpenStore, openStore } from './open';
import { keepReserve } from './reserve';

/** A disk that is really full: a file system in memory, if this machine can mount one. */

withAudit();

const place = join(root, 'small');
mkdirSync(place, { recursive: true });
const isMounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=320m', 'tmpfs', place]).status === 0;
let open: OpenStore | null = null;
afterEach(() => {
  open?.$client.close();
  if (isMounted) spawnSync('umount', ['-l', place]);
});

/** Not an octet is left. */
function fillUp(): void {
  const handle = openSync(join(place, 'filling'), 'w');
  const { bavail, bsize } = statfsSync(place);
  for (let left = bavail * bsize; left > 0; left -= 4096) {
    try {
      writeSync(handle, Buffer.alloc(Math.min(left, 1 << 20)));
      left -= (1 << 20) - 4096;
    } catch {
      break;
    }
  }
  closeSync(handle);
}

test.runIf(isMounted)('an audit can be deleted on it, an import ends, and both leave a sound database', async () => {
  const file = join(place, 'full.sqlite');
  vi.stubEnv('YSOMERIS_DATABASE', file);
  const store = openStore(file);
  open = store;
  migrateStore(store);
  keepReserve(file);
  expect(existsSync(`${file}.reserve`)).toBe(true);
  const id = createAudit(store, 'to go');
  const asked: JobRequest[] = [];
  const runner = { start: (_audit: string, request: JobRequest) => String(asked.push(request)) };
  const job = { auditId: id, report: () => {}, checkpoint: () => {} };
  const mail = (count: number) =>
    Array.from(
      { length: count },
      (_, n) => `${FROM}\nSubject: oak ${n}\n\n${Math.sin(n)} words ${'x'.repeat(n % 900)}\n\n`,
    );
  await importFile(store, runner, id, 'A.mbox', body(...mail(6000)));
  for (let request = asked.shift(); request; request = asked.shift()) await perform(store, job, request);
  await importFile(store, runner, id, 'B.mbox', body(...mail(5000).map((text) => text.replace('oak', 'elm'))));
  fillUp();
  for (let request = asked.shift(); request; request = asked.shift()) await perform(store, job, request);
  expect(listAudits(store)[0]?.messageCount).toBe(6000);
  atOnce(deletion(store, id));
  expect(listAudits(store)).toEqual([]);
  expect(store.$client.pragma('integrity_check', { simple: true })).toBe('ok');
  expect(store.$client.prepare('select count(*) from message').pluck().get()).toBe(0);
  // Deleting made room for another.
  createAudit(store, 'another');
  rmSync(join(place, 'filling'));
});
