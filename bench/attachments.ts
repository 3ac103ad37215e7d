import { randomBytes } from 'node:crypto';
import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeMboxEntry } from '../src/core/mail/mbox';
import { fileBody } from '../src/server/gather/import-file';
import type { Helpers } from '../src/server/jobs/perform';
import { helpers, openBench } from './application';
import { figure, milliseconds, secondsOf } from './figures';

const LARGE = 150;
const SMALL = 20;

/** Mail with attachments of megabytes, then small files one after another: what an import costs besides its mail. */
export async function benchImports(): Promise<void> {
  const { folder, bring, work, end } = openBench();
  const large = join(folder, 'attachments.mbox');
  writeFileSync(
    large,
    Buffer.concat(Array.from({ length: LARGE }, (_, n) => entry(n, 500_000 + ((n * 9973) % 1_500_000)))),
  );
  const megabytes = statSync(large).size / 1e6;
  const receiving = await secondsOf(() => bring('attachments.mbox', fileBody(large)));
  const importing = await secondsOf(work);
  const rate = (took: number) => `${(megabytes / took).toFixed(0)} MB/s`;
  figure(
    `import of ${LARGE} messages with attachments, ${megabytes.toFixed(0)} MB`,
    `${rate(importing)}, ${rate(importing + receiving)} with receiving it`,
    '60 MB/s',
  );
  // As in the application, whose imports share a thread.
  const kept = helpers.preparer();
  const shared: Helpers = {
    ...helpers,
    preparer: () => ({ prepare: (batch) => kept.prepare(batch), close: () => {} }),
  };
  const bringSmall = async (n: number) => {
    await bring(`small ${n}.mbox`, one(entry(LARGE + n, 100)));
    await work(shared);
  };
  await bringSmall(SMALL);
  const small = await secondsOf(async () => {
    for (let n = 0; n < SMALL; n++) await bringSmall(n);
  });
  kept.close();
  figure('an import of one small message', milliseconds(small / SMALL), '50 ms');
  end();
}

async function* one(octets: Uint8Array): AsyncGenerator<Uint8Array> {
  yield octets;
}

/** A message with random octets in base64, which hardly can be compressed. */
function entry(n: number, octets: number): Uint8Array {
  const lines = randomBytes(octets).toString('base64').replace(/.{76}/g, '$&\n');
  const raw = Buffer.from(
    `From: yard@oak.example\nSubject: plan ${n}\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\n\nwords\n--b\nContent-Type: application/octet-stream\nContent-Transfer-Encoding: base64\n\n${lines}\n--b--\n`,
  );
  return writeMboxEntry({ fromLine: null, raw });
}
