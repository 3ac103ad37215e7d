// Takes pictures of pages of the running application (npm run demo first).
//   npm run pictures [-- OUT NAME ...]                 the views of docs/screenshots, all or these, from the demo
//   npm run pictures -- OUT [--dark] NAME=PATH ...      any pages
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { transform } from 'esbuild';

const BASE = process.env.BASE ?? 'http://127.0.0.1:3000';
const { code } = await transform(readFileSync(new URL('../src/views.ts', import.meta.url), 'utf8'), { loader: 'ts' });
const { VIEWS } = await import(`data:text/javascript,${encodeURIComponent(code)}`);
const PICTURED = VIEWS.flatMap(({ path, picture }) =>
  picture ? [`${picture[0]}=/audits/demo/${path}${picture[1]}`] : [],
);

const args = process.argv.slice(2);
const dark = args.includes('--dark');
const [out = 'docs/screenshots', ...given] = args.filter((arg) => arg !== '--dark');
mkdirSync(out, { recursive: true });

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu', '--disable-background-networking', '--no-first-run'],
});
const page = await browser.newPage({
  viewport: { width: 1280, height: 800 },
  colorScheme: dark ? 'dark' : 'light',
});
page.on('console', (message) => message.type() === 'error' && console.log('console:', message.text()));
const [traced] = await messagesOf('runs-on r13 r18');
const examples = (await messagesOf('too-narrow r11')).slice(0, 3).join();
/** Views that are empty before any change are shown with a change, which is undone afterwards. */
const WITH_A_CHANGE = ['changes', 'steps'];
/** What is done on a page before its picture is taken. */
const BEFORE = {
  changes: () => seen(/a different destination/),
  steps: () => seen(/steps? left/),
  question: () => seen(/resolve \d+ of \d+/),
  plan: async () => {
    await seen(/resolve \d+ of \d+/);
    await page.getByRole('link', { name: /^Move/ }).first().click();
    await seen('Apply');
  },
  told: async () => {
    await page.getByLabel('Rule 1', { exact: true }).fill(TOLD[0]);
    await page.getByLabel('Rule 1', { exact: true }).press('Enter');
    await page.keyboard.insertText(TOLD[1]);
    await page.waitForTimeout(2500);
  },
};
const TOLD = [
  'Levels: mail from *.riverlevels.example or alerts@weather.example with flood or "river level" in the subject, but not sent only to me, into Weir/Levels, and mark as read',
  'from ann.castle@fellmail.example when the moon is full into Photos',
];
const seen = (words) => page.getByText(words).first().waitFor({ timeout: 60_000 });
const EDITS = [
  { kind: 'switch', id: 'r8', on: false },
  { kind: 'ending', id: 'r11', from: 'stop', to: 'continue' },
  { kind: 'move', ids: ['r40'], from: 39, to: 60, withinRun: false },
];
const done = (path, body = {}) =>
  page.evaluate(
    async ([to, sent]) => {
      const headers = { 'content-type': 'application/json' };
      const response = await fetch(to, { method: 'POST', headers, body: JSON.stringify(sent) });
      if (!response.ok) throw new Error(await response.text());
    },
    [`/api/audits/demo/${path}`, body],
  );

const usual = ['opening=/', ...PICTURED, 'question=/audits/demo/plan', 'trace=/audits/demo/mail/TRACED'];
// Changed views come last, so that no other picture shows unfinished work.
const isChanged = (view) => WITH_A_CHANGE.includes(view.split('=')[0]);
const isNamed = given.every((view) => !view.includes('='));
const named = usual.filter((view) => given.length === 0 || given.includes(view.split('=')[0]));
const shown = isNamed ? named.toSorted((a, b) => isChanged(a) - isChanged(b)) : given;
for (const view of shown) {
  const [name, ...path] = view.split('=');
  const changed = isNamed && isChanged(view);
  if (changed) await done('edits', { edits: EDITS, why: 'the yard has closed' });
  await page
    .goto(BASE + path.join('=').replace('TRACED', traced).replace('EXAMPLES', examples), { waitUntil: 'networkidle' })
    .catch(() => {});
  if (isNamed) await BEFORE[name]?.();
  await page.evaluate(() => document.fonts.ready);
  await page.waitForTimeout(400);
  await page.screenshot({ path: join(out, `${name}.png`) });
  if (changed) await done('undo');
}
await browser.close();

/** Messages of a finding of the demo; waits for the audit, which may still run. */
async function messagesOf(finding) {
  for (let left = 120; left > 0; left--) {
    const answer = await fetch(`${BASE}/api/audits/demo/messages?finding=${encodeURIComponent(finding)}&limit=10`);
    const { rows } = await answer.json();
    if (rows?.length > 0) return rows.map(({ number }) => String(number));
    await new Promise((resolve) => setTimeout(resolve, 1000));
  }
  throw new Error(`The demo has no finding "${finding}"`);
}
