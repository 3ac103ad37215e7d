// Bundles what runs outside of Next.js: the worker threads, the seeding of the demo, and the bench.
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const root = fileURLToPath(new URL('..', import.meta.url));

await build({
  entryPoints: {
    'job.worker': join(root, 'src/server/jobs/job.worker.ts'),
    'share.worker': join(root, 'src/server/jobs/share.worker.ts'),
    'prepare.worker': join(root, 'src/server/jobs/prepare.worker.ts'),
    seed: join(root, 'demo/seed.ts'),
    bench: join(root, 'bench/run.ts'),
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

// By it the server knows whether what lies in the database was worked out by just this core.
const digest = createHash('sha256');
const core = join(root, 'src', 'core');
for (const name of readdirSync(core, { recursive: true }).sort()) {
  if (/(?<!\.test)\.ts$/.test(name)) digest.update(name).update(readFileSync(join(core, name)));
}
writeFileSync(join(root, 'dist', 'core-digest'), digest.digest('hex'));
