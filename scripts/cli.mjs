#!/usr/bin/env node
// Runs the command line from its sources, bundled into one file whenever one of them has changed, since loading them
// one by one takes longer than most of the work; if nothing can be written, they are loaded one by one.
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { installPackages } from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const bundle = join(root, 'dist', 'cli.mjs');
const inputs = join(root, 'dist', 'cli.inputs.json');

if (!existsSync(join(root, 'node_modules', 'tsx'))) installPackages(root, { quiet: true });
if (isCurrent() || (await bundled())) await import(pathToFileURL(bundle).href);
else {
  const { register } = await import('tsx/esm/api');
  register();
  await import('../src/cli/main.ts');
}

/** Whether all bundled sources are older than the bundle. */
function isCurrent() {
  try {
    const made = statSync(bundle).mtimeMs;
    return JSON.parse(readFileSync(inputs, 'utf8')).every((file) => statSync(join(root, file)).mtimeMs < made);
  } catch {
    return false;
  }
}

/**
 * False if the bundle cannot be written. It is written under a name of its own first, since another process may do the
 * same.
 */
async function bundled() {
  const mine = `${bundle}.${process.pid}`;
  try {
    const { build } = await import('esbuild');
    const { metafile, outputFiles } = await build({
      entryPoints: [join(root, 'src', 'cli', 'main.ts')],
      absWorkingDir: root,
      outfile: bundle,
      bundle: true,
      platform: 'node',
      format: 'esm',
      // Only one verb needs it, and loads it then.
      external: ['imapflow'],
      minifySyntax: true,
      minifyWhitespace: true,
      target: 'node20',
      banner: { js: "import { createRequire } from 'node:module';\nconst require = createRequire(import.meta.url);" },
      metafile: true,
      write: false,
      logLevel: 'silent',
    });
    mkdirSync(join(root, 'dist'), { recursive: true });
    writeFileSync(mine, outputFiles[0].contents);
    writeFileSync(`${mine}.json`, JSON.stringify(Object.keys(metafile.inputs)));
    renameSync(`${mine}.json`, inputs);
    renameSync(mine, bundle);
    return true;
  } catch {
    for (const file of [mine, `${mine}.json`]) rmSync(file, { force: true });
    return false;
  }
}
