// The checks that need no build and no browser, each with its program and its arguments.
import { join } from 'node:path';

const bin = (path) => join('node_modules', ...path.split('/'));

export const CHECKS = [
  ['formatter and linter', bin('@biomejs/biome/bin/biome'), ['check', '--error-on-warnings', '.']],
  ['types, once Next.js has written its own', bin('next/dist/bin/next'), ['typegen']],
  ['types', bin('typescript/bin/tsc'), ['--noEmit']],
  [
    'directions of imports',
    bin('dependency-cruiser/bin/dependency-cruise.mjs'),
    ['--config', '.dependency-cruiser.cjs', 'src'],
    (output) => Number(/(\d+) modules/.exec(output)?.[1] ?? 0) > 100,
  ],
  ['unused code', bin('knip/bin/knip.js'), []],
  [
    'no host of a registry in the lock file',
    '-e',
    ["process.exit(/registry\\.|\"resolved\"/.test(require('fs').readFileSync('package-lock.json', 'utf8')) ? 1 : 0)"],
  ],
];

export { bin };
