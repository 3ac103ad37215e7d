#!/usr/bin/env node
// Runs the command line from its sources, bundled into one file whenever one of them has changed, since loading them
// one by one takes longer than most of the work; if nothing can be written, they are loaded one by one.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Script } from 'node:vm';
import { installPackages } from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const dist = join(root, 'dist');
/** The sources of the bundle, and its file, which is named by what it contains. */
const index = join(dist, 'cli.json');

if (!existsSync(join(root, 'node_modules', 'tsx'))) installPackages(root, { quiet: true });
const bundle = current() ?? (await bundled());
if (bundle !== null) run(bundle);
else {
  const { register } = await import('tsx/esm/api');
  register();
  await import('../src/cli/main.ts');
}

/** The bundle, if all its sources are older; else null. */
function current() {
  try {
    const made = statSync(index).mtimeMs;
    const { inputs, file } = JSON.parse(readFileSync(index, 'utf8'));
    const isCurrent = inputs.every((input) => statSync(join(root, input)).mtimeMs < made);
    return isCurrent && existsSync(join(dist, file)) ? join(dist, file) : null;
  } catch {
    return null;
  }
}

/** Null if the bundle cannot be written. */
async function bundled() {
  try {
    const { build } = await import('esbuild');
    const { metafile, outputFiles } = await build({
      entryPoints: [join(root, 'src', 'cli', 'main.ts')],
      absWorkingDir: root,
      outfile: join(dist, 'cli.cjs'),
      bundle: true,
      platform: 'node',
      format: 'cjs',
      // Only one verb needs it, and loads it then.
      external: ['imapflow'],
      supported: { 'dynamic-import': false },
      minifySyntax: true,
      minifyWhitespace: true,
      target: 'node20',
      metafile: true,
      write: false,
      logLevel: 'silent',
    });
    const { contents } = outputFiles[0];
    const file = `cli.${createHash('sha256').update(contents).digest('hex').slice(0, 16)}.cjs`;
    mkdirSync(dist, { recursive: true });
    for (const old of readdirSync(dist)) {
      const isOld = /^cli\.(mjs|inputs\.json|[\da-f]{16}\.cjs.*)$/.test(old) && !old.startsWith(file);
      // Another process may remove the same.
      if (isOld) rmSync(join(dist, old), { force: true });
    }
    put(join(dist, file), contents);
    put(index, JSON.stringify({ inputs: Object.keys(metafile.inputs), file }));
    return join(dist, file);
  } catch {
    return null;
  }
}

/** Writes a file under a name of its own first, since another process may do the same. */
function put(file, contents) {
  const mine = `${file}.${process.pid}`;
  try {
    writeFileSync(mine, contents);
    renameSync(mine, file);
  } catch (error) {
    rmSync(mine, { force: true });
    throw error;
  }
}

/**
 * Runs the bundle with what the engine compiled when the same verb ran before: compiling takes a fifth of a short run.
 * The engine itself rejects what another version of it compiled.
 */
function run(file) {
  const verb = /^[a-z]{1,20}$/.test(process.argv[2] ?? '') ? process.argv[2] : 'help';
  const compiled = `${file}.${verb}`;
  const cachedData = existsSync(compiled) ? readFileSync(compiled) : undefined;
  // The bundler writes ASCII.
  const source = readFileSync(file, 'latin1');
  const parameters = 'exports, require, module, __filename, __dirname';
  const script = new Script(`(function (${parameters}) {${source}\n})`, { filename: file, cachedData });
  if (cachedData === undefined || script.cachedDataRejected) {
    process.on('exit', (code) => {
      if (code !== 0) return;
      try {
        put(compiled, script.createCachedData());
      } catch {
        // It is only slower the next time.
      }
    });
  }
  const module = { exports: {} };
  script.runInThisContext()(module.exports, createRequire(file), module, file, dist);
}
