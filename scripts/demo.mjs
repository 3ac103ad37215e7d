// npm run demo: installs what is missing, builds, prepares the database and the demo data, and serves. A second start skips all but
// the last step.
import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildApplication } from './build.mjs';
import { installPackages, run, say } from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const port = process.env.PORT ?? '3000';
const database = process.env.YSOMERIS_DATABASE ?? join(root, 'data', 'ysomeris.sqlite');

try {
  installPackages(root);
  buildApplication(root);
  if (!existsSync(database)) say('writing and importing the demo data, which takes under a minute, once');
  run(process.execPath, ['dist/seed.mjs'], { cwd: root });
} catch (error) {
  console.error(error.message);
  process.exit(1);
}

const next = ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', port];
// The built-in demo server speaks ManageSieve, to get scripts from and to upload them to, and IMAP, to fetch mail from.
const env = {
  ...process.env,
  YSOMERIS_STANDIN: process.env.YSOMERIS_STANDIN ?? '4190',
  YSOMERIS_STANDIN_MAIL: process.env.YSOMERIS_STANDIN_MAIL ?? '4143',
};
say('starting the server');
const server = spawn(process.execPath, next, { cwd: root, env, stdio: ['inherit', 'pipe', 'inherit'] });
server.stdout.on('data', (chunk) => {
  process.stdout.write(chunk);
  if (String(chunk).includes('Ready'))
    console.log(`\nYsomeris is open at http://127.0.0.1:${port} (stop it with Ctrl+C)\n`);
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
