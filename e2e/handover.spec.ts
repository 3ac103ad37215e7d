import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { noViolations } from './access';
import { beginAudit } from './begin';

const SCRIPT = `require ["fileinto", "body", "copy"];
# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }
# Copies
if header :contains "subject" "oak" { fileinto :copy "Oak"; }
# Words
if body :contains "lime" { fileinto "Lime"; }
`;
const letter = (n: number, subject: string, words: string) =>
  `From a@b.example Thu Jan  1 10:00:00 2026\nFrom: a@b.example\nTo: me@mill.example\nSubject: ${subject}\nDate: Thu, ${n + 1} Jan 2026 10:00:00 +0000\n\n${words}\n\n`;
const MAIL = [
  letter(1, 'weir', 'x'),
  letter(2, 'oak', 'x'),
  letter(3, 'stone', 'lime and sand'),
  letter(4, 'other', 'x'),
].join('');

test('a script is written for a server, its costs are accepted, and it is handed over, run and taken back', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByLabel('New audit').fill('To be handed over');
  await page.getByRole('button', { name: 'Create audit' }).click();
  await page.waitForURL('**/gather');
  const file = (name: string, text: string) => ({
    name,
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(text),
  });
  await page.locator('input[type=file]').setInputFiles([file('rules.sieve', SCRIPT), file('INBOX.mbox', MAIL)]);
  await expect(page.getByText('4 messages').first()).toBeVisible();

  await page.getByRole('link', { name: 'Export', exact: true }).click();
  await page.getByRole('radio', { name: /^the core language and fileinto/ }).check();
  await expect(page.getByText('without copy: the copied mail stays in the inbox')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Verified: 4 of 4 messages have the same destination' })).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByText(/It cannot be downloaded yet/)).toBeVisible();
  await noViolations(page);
  await page.getByText('keep the rule as a comment').click();
  // Each script is verified by itself.
  await expect(page.getByLabel('The script', { exact: true })).toContainText('# » Words: switched off');
  await expect(page.getByRole('heading', { name: /^Verified/ })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('checkbox', { name: 'accepted: Copies' }).check();
  await expect(page.getByRole('button', { name: 'Download script' })).toBeVisible();
  await expect(page.getByLabel('The script', { exact: true })).toContainText('# » Words: switched off');

  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'as XML' }).click();
  expect(readFileSync(await (await download).path(), 'utf8')).toContain('<sieve');

  await page.getByRole('link', { name: 'Upload to a mail server' }).click();
  await page.getByRole('button', { name: 'Use the built-in demo server' }).click();
  await expect(page.getByText('Dry run: the server accepts the script.')).toBeVisible({ timeout: 60_000 });
  // Its certificate is known; that of any other server is asked for.
  await page.getByRole('textbox', { name: 'Server', exact: true }).fill('127.0.0.1');
  await page.getByRole('button', { name: 'Connect' }).click();
  await expect(page.getByText('The certificate of this server cannot be trusted')).toBeVisible();
  await page.getByRole('checkbox', { name: /^I have compared the fingerprint/ }).check();
  await page.getByRole('button', { name: 'Trust this certificate' }).click();
  await expect(page.getByRole('heading', { name: '4 scripts' })).toBeVisible();
  await noViolations(page);
  await expect(page.getByText('Dry run: the server accepts the script.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Name of the script on the server' }).fill('audited');
  await page.getByRole('button', { name: 'Upload' }).click();
  await expect(page.getByText('The script is uploaded as “audited”. It is not active yet.')).toBeVisible();
  await noViolations(page);
  await page.getByRole('button', { name: 'Activate “audited”' }).click();
  await expect(page.getByText('“audited” is active now.')).toBeVisible();
  await page.getByRole('button', { name: 'Activate “since spring” again' }).click();
  await expect(page.getByText('“since spring” is active now.')).toBeVisible();

  await page.getByRole('checkbox', { name: 'holidays' }).check();
  await page.getByRole('button', { name: 'Import 1 into this audit' }).click();
  await expect(page.getByText('“holidays.sieve”: 1 rule.')).toBeVisible();

  await page.request.put('/api/standin', { data: { refuses: 'LISTSCRIPTS' } });
  await page.getByRole('button', { name: 'Connect' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'this script is not accepted' })).toBeVisible();
  await page.request.put('/api/standin', { data: { refuses: null } });
});

test('a verified script runs on the server after four clicks', async ({ page }) => {
  const id = await beginAudit(page, 'In four clicks', [
    ['rules.sieve', 'require "fileinto"; if header :is "subject" "oak" { fileinto "Oak"; }'],
    ['INBOX.mbox', MAIL],
  ]);
  await page.goto(`/audits/${id}/export`);
  await expect(page.getByRole('heading', { name: /^Verified/ })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('link', { name: 'Upload to a mail server' }).click();
  await page.getByRole('button', { name: 'Use the built-in demo server' }).click();
  await expect(page.getByText('Dry run: the server accepts the script.')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Upload' }).click();
  await page.getByRole('button', { name: /^Activate “audited/ }).click();
  await expect(page.getByText(/^“audited .* is active now\.$/)).toBeVisible();
  await page.getByRole('button', { name: 'Activate “since spring” again' }).click();
  await expect(page.getByText('“since spring” is active now.')).toBeVisible();
  await page.request.put('/api/standin', { data: { refuses: 'CHECKSCRIPT' } });
  await page.getByRole('button', { name: 'Connect' }).click();
  await expect(page.getByText('Dry run: the server rejects the script.')).toBeVisible();
  await expect(page.getByText('line 2: nor is this line.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Upload' })).toHaveAttribute('aria-disabled', 'true');
  await page.request.put('/api/standin', { data: { refuses: null } });
  // What the server announced is the target from now on.
  await page.getByRole('link', { name: 'Export', exact: true }).click();
  await expect(page.getByRole('radio', { name: /^what localhost announced/ })).toBeChecked();
});

test('folders are called as on the server: by prefix, levels, its list and names of their own', async ({ page }) => {
  const id = await beginAudit(page, 'Other names', [
    [
      'rules.sieve',
      'require "fileinto"; if header :is "subject" "oak" { fileinto "Shop/Oak"; } else { fileinto "Rest"; }',
    ],
    ['INBOX.mbox', MAIL],
  ]);
  await page.goto(`/audits/${id}/export`);
  const script = page.getByLabel('The script', { exact: true });
  await expect(script).toContainText('fileinto "Shop/Oak"');
  await page.getByText('Folders on the server', { exact: false }).first().click();
  await page.getByLabel('Every name begins with').fill('INBOX.');
  await page.getByText('A.B', { exact: true }).click();
  await expect(script).toContainText('fileinto "INBOX.Shop.Oak"');
  await page
    .getByLabel('The server’s folders, one a line')
    .or(page.getByLabel("The server's folders, one a line"))
    .fill('INBOX.Shop.Oak\nOther');
  await page.getByRole('button', { name: 'Use the list' }).click();
  await expect(page.getByText('INBOX.Rest (not there yet)')).toBeVisible();
  await page.getByLabel('Name of “Rest” on the server').fill('Other');
  await page.getByLabel('Name of “Rest” on the server').press('Tab');
  await expect(script).toContainText('fileinto "Other"');
  await noViolations(page);
  await expect(page.getByRole('heading', { name: 'Verified: 4 of 4 messages have the same destination' })).toBeVisible({
    timeout: 60_000,
  });
});
