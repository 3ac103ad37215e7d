import { defineConfig } from '@playwright/test';

/** The port and the folder of the built application under test. */
const PORT = 3100;

export default defineConfig({
  testDir: 'e2e',
  workers: 1,
  timeout: 120_000,
  // Machines are shared: what is waited for may take its time.
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--headless',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command: `node dist/seed.mjs && node node_modules/next/dist/bin/next start -H 127.0.0.1 -p ${PORT}`,
    url: `http://127.0.0.1:${PORT}/`,
    env: { YSOMERIS_DATABASE: 'test-results/data/e2e.sqlite', YSOMERIS_STANDIN: '4191', YSOMERIS_STANDIN_MAIL: '4144' },
    timeout: 120_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5000 },
  },
});
