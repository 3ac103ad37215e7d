import { expect, type Page, test } from '@playwright/test';
import { noViolations } from './access';

/** Mail from a server: the mailbox of the demo server, which is another one after it was fetched once. */

async function trusted(page: Page): Promise<void> {
  await page.getByRole('checkbox', { name: 'I have compared the fingerprint, and it is correct' }).check();
  await page.getByRole('button', { name: 'Trust this certificate' }).click();
}

test('a mailbox is fetched with its script, looked at again, and forgotten', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Fetch Maren’s mailbox' }).click();
  await page.waitForURL('**/mailbox?demo=1');
  await expect(page.getByRole('heading', { name: 'Fetch a mailbox to audit it here' })).toBeVisible();
  await noViolations(page);

  await page.getByLabel('Password', { exact: true }).fill('wrong');
  await page.getByRole('button', { name: 'Connect' }).click();
  await expect(page.getByText(/it is self-signed/)).toBeVisible();
  await trusted(page);
  await expect(page.getByText('The server did not accept this user and password.')).toBeVisible();
  await page.getByRole('button', { name: 'Fill in Maren’s mailbox' }).click();
  await page.getByRole('button', { name: 'Connect' }).click();
  await trusted(page);

  await expect(page.getByText(/^4,000 messages in 27 of 27 folders/)).toBeVisible();
  await noViolations(page);
  await page.getByLabel('Only mail that arrived since').fill('2026-01-01');
  await page.getByRole('button', { name: 'Count mail since that day' }).click();
  await expect(page.getByText(/^4\d\d messages in 27 of 27 folders/)).toBeVisible();
  await page.getByRole('checkbox', { name: 'eight years' }).check();
  await page.getByRole('checkbox', { name: 'since spring (in use)' }).uncheck();
  await page.getByRole('button', { name: /^Fetch 4\d\d messages/ }).click();
  await expect(page.getByText(/^4\d\d messages fetched/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('was neither imported into this audit nor uploaded from it')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Where the chain takes the new messages' })).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByText('localhost, port 4144')).toBeVisible();

  // Meanwhile mail has arrived.
  await page.getByLabel('Password', { exact: true }).fill('sluice-gate');
  await page.getByRole('button', { name: 'Look again' }).click();
  await expect(page.getByText(/^24 messages fetched/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/with other flags than before/)).toBeVisible();
  await expect(page.getByText(/new finding|No new findings/).first()).toBeVisible({ timeout: 60_000 });
  await noViolations(page);

  await page.getByRole('link', { name: 'Gather' }).click();
  await expect(page.getByText(/maren on localhost/).first()).toBeVisible();
  await page.getByRole('link', { name: 'Fetch from a mail server' }).click();
  await page.getByRole('button', { name: 'forget this mailbox' }).click();
  await expect(page.getByRole('button', { name: 'Connect' })).toBeVisible();
  await page.getByRole('button', { name: 'stop trusting localhost, port 4144' }).click();
  await expect(page.getByText('Certificates you trust in this audit')).toBeHidden();
});

test('a server that is not there is told in one sentence', async ({ page }) => {
  const { id } = await (await page.request.post('/api/audits', { data: { name: 'Nowhere' } })).json();
  await page.goto(`/audits/${id}/mailbox`);
  await page.getByLabel('Server', { exact: true }).fill('localhost');
  await page.getByLabel('User').fill('maren');
  await page.getByLabel('Port', { exact: true }).fill('1');
  await page.getByRole('button', { name: 'Connect' }).click();
  await expect(page.getByText('localhost has no server on port 1. Check the port.')).toBeVisible();
});
