// npm run drill: builds the application, and attacks it.
import { fileURLToPath } from 'node:url';
import { buildApplication } from './build.mjs';
import { run } from './install.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
buildApplication(root);
run(process.execPath, ['dist/drill.mjs', ...process.argv.slice(2)], { cwd: root });
