// npm run build: builds the application, unless the present build comes from exactly these sources.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { digestOf } from './digest.mjs';
import { run, say } from './install.mjs';

const SOURCES = [
  'src',
  'demo',
  'scripts',
  'package-lock.json',
  'next.config.ts',
  'postcss.config.cjs',
  'tsconfig.json',
];

export function buildApplication(root) {
  const state = digestOf(root, SOURCES);
  const mark = join(root, '.next', 'built-from');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === state && existsSync(join(root, 'dist', 'seed.mjs'))) return;
  say('building the application, which takes about 2 minutes, once for each version');
  run(process.execPath, ['scripts/bundle.mjs'], { cwd: root });
  const env = { ...process.env, NEXT_TELEMETRY_DISABLED: '1' };
  run(process.execPath, ['node_modules/next/dist/bin/next', 'build'], { cwd: root, env });
  writeFileSync(mark, state);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) buildApplication(fileURLToPath(new URL('..', import.meta.url)));
