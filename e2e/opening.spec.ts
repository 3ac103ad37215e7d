import { expect, type Page, test } from '@playwright/test';

/** From the first page to the first finding; and an audit exported, deleted, and opened again. */

const SCRIPT = `require "fileinto";
# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }
# Flood
if header :contains "subject" "flood" { fileinto "Flood"; stop; }
# Weir floods
if header :contains "subject" "weir flood" { fileinto "Weir floods"; stop; }
`;
const letter = (n: number, subject: string) =>
  `From a@b.example Thu Jan  1 10:00:00 2026\nFrom: a@b.example\nTo: me@mill.example\nSubject: ${subject}\nDate: Thu, ${n} Jan 2026 10:00:00 +0000\n\nwords\n\n`;
const MAIL = [letter(1, 'weir flood tonight'), letter(2, 'the weir'), letter(3, 'Überlauf 石灰')].join('');
const RULES = JSON.stringify({
  format: 'ysomeris-chain',
  version: 1,
  entries: [
    {
      kind: 'rule',
      id: 'a',
      name: 'Oak',
      note: '',
      on: true,
      tests: {
        kind: 'leaf',
        test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: ['oak'] },
      },
      unless: [],
      actions: [{ action: 'fileinto', folder: 'Oak', copy: false, flags: null }],
      ending: 'stop',
      link: 'always',
    },
  ],
  closing: '',
});

async function drop(page: Page, files: Record<string, string | Buffer>): Promise<void> {
  await page.locator('input[type=file]').setInputFiles(
    Object.entries(files).map(([name, text]) => {
      return { name, mimeType: 'application/octet-stream', buffer: Buffer.isBuffer(text) ? text : Buffer.from(text) };
    }),
  );
}

test('a newcomer drops files on the first page and sees the first finding within a minute', async ({ page }) => {
  test.setTimeout(60_000);
  await page.goto('/');
  await drop(page, { 'mill.sieve': SCRIPT, 'INBOX.mbox': MAIL });
  await page.waitForURL('**/gather');
  await expect(page.getByText('3 messages').first()).toBeVisible();
  await page.getByRole('link', { name: 'Findings', exact: true }).click();
  await page.getByRole('navigation', { name: 'Pages of findings' }).getByRole('link', { name: 'Findings' }).click();
  await expect(page.getByText('“Weir floods” never acts').first()).toBeVisible({ timeout: 40_000 });
});

test('an audit is taken away with its mail, deleted, and opened again as it was', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('New audit').fill('To be taken away');
  await drop(page, { 'mill.sieve': SCRIPT, 'INBOX.mbox': MAIL });
  await page.waitForURL('**/gather');
  await expect(page.getByText('3 messages').first()).toBeVisible();
  await page.getByRole('link', { name: 'Export', exact: true }).click();
  const taken = page.getByRole('link', { name: 'with its mail' });
  const archive = await (await page.request.get((await taken.getAttribute('href')) as string)).body();

  await page.goto('/');
  await page.getByRole('button', { name: 'delete To be taken away' }).click();
  await expect(page.getByText('its copy of 3 messages will be deleted permanently')).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('link', { name: 'To be taken away' })).toBeVisible();
  await page.getByRole('button', { name: 'delete To be taken away' }).click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(page.getByRole('link', { name: 'To be taken away' })).toHaveCount(0);

  await drop(page, { 'audit.json': archive });
  await page.waitForURL('**/chain');
  await expect(page.getByText('3 messages pass 3 rules')).toBeVisible({ timeout: 30_000 });
  await page.getByRole('link', { name: 'Mail', exact: true }).click();
  await expect(page.getByText('Überlauf 石灰')).toBeVisible();

  const cut = archive.subarray(0, archive.length - 100);
  await page.goto('/');
  await drop(page, { 'cut.json': cut });
  await expect(page.getByText('it is not JSON, or it is truncated')).toBeVisible();
});

test('rules in JSON begin an audit; of what cannot be read nothing stays', async ({ page }) => {
  await page.goto('/');
  await drop(page, { 'picture.sieve.png': '\u0089PNG' });
  await expect(page.getByText('is neither rules nor mail in a supported format')).toBeVisible();
  await expect(page.getByText('Drop your rules and your mail here')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('link', { name: 'picture.sieve' })).toHaveCount(0);
  await drop(page, { 'oak.json': RULES });
  await page.waitForURL('**/gather');
  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await expect(page.getByText('Oak').first()).toBeVisible();
});
