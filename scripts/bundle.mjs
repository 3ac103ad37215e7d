// Bundles what runs outside of Next.js: the worker threads, the seeding of the demo, and the bench.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { digestOf } from './digest.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));

await build({
  entryPoints: {
    'job.worker': join(root, 'src/server/jobs/job.worker.ts'),
    'share.worker': join(root, 'src/server/jobs/share.worker.ts'),
    'pool.worker': join(root, 'src/server/threads/pool.worker.ts'),
    'prepare.worker': join(root, 'src/server/jobs/prepare.worker.ts'),
    seed: join(root, 'demo/seed.ts'),
    bench: join(root, 'bench/run.ts'),
    drill: join(root, 'drill/run.ts'),
  },
  outdir: join(root, 'dist'),
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
});

// By this digest the server knows whether cached results in the database come from the same program.
writeFileSync(join(root, 'dist', 'worked-out-by'), digestOf(root, ['src/core', 'src/files', 'src/server']));
