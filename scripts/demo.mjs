// npm run demo: installs what is missing, prepares the database and the demo data, builds, and serves.
import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { buildApplication } from './build.mjs';
import { installPackages, run, say } from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const port = process.env.PORT ?? '3000';

try {
  installPackages(root);
  buildApplication(root);
  say('preparing the database and the demo data');
  run(process.execPath, ['dist/seed.mjs'], { cwd: root });
} catch (error) {
  console.error(error.message);
  process.exit(1);
}

const next = ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', port];
// A server of scripts that is played, to fetch from and to hand over to.
const env = { ...process.env, YSOMERIS_STANDIN: process.env.YSOMERIS_STANDIN ?? '4190' };
const server = spawn(process.execPath, next, { cwd: root, env, stdio: ['inherit', 'pipe', 'inherit'] });
server.stdout.on('data', (chunk) => {
  process.stdout.write(chunk);
  if (String(chunk).includes('Ready')) console.log(`\nYsomeris is open at http://127.0.0.1:${port}\n`);
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
