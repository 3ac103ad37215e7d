import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';

const letter = (subject: string, to = 'me@mill.example') =>
  `From: a@x.example\nTo: ${to}\nDelivered-To: ${to}\nSubject: ${subject}\nDate: Thu, 1 Jan 2026 10:00:00 +0000\n\nwords\n`;

/** Drops a file or a folder of this machine on the page, as a desktop does. */
async function drop(page: Page, path: string): Promise<void> {
  const target = await page.getByText('Drop your rules and your mail here.').boundingBox();
  if (!target) throw new Error('there is nothing to drop on');
  const client = await page.context().newCDPSession(page);
  const data = { items: [], files: [path], dragOperationsMask: 1 };
  const at = { x: target.x + 5, y: target.y + 5, data };
  await client.send('Input.dispatchDragEvent', { type: 'dragEnter', ...at });
  await client.send('Input.dispatchDragEvent', { type: 'dragOver', ...at });
  await client.send('Input.dispatchDragEvent', { type: 'drop', ...at });
}

async function begin(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByLabel('Begin an audit').fill(name);
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.waitForURL('**/gather');
}

test.describe('a folder that is dropped', () => {
  const root = mkdtempSync(join(tmpdir(), 'dropped-'));
  const folder = join(root, 'Mill mail');

  test.beforeAll(() => {
    for (const place of ['cur', 'new', '.Archive.2020/cur']) mkdirSync(join(folder, place), { recursive: true });
    writeFileSync(join(folder, 'cur', '1700000000.1.mill:2,FS'), letter('weir'));
    writeFileSync(join(folder, 'new', '1700000001.2.mill'), letter('oak'));
    writeFileSync(join(folder, '.Archive.2020', 'cur', '1700000002.3.mill:2,S'), letter('石灰 lime'));
    const separator = 'From x@y.example Thu Jan  1 10:00:00 2026\n';
    writeFileSync(join(folder, 'Suppliers.mbox'), `${separator}${letter('elm')}\n${separator}${letter('ash')}\n`);
    writeFileSync(join(folder, 'picture.png'), '\u0089PNG');
  });
  test.afterAll(() => rmSync(root, { recursive: true, force: true }));

  test('is read with its folders and flags, and tells what became of each file', async ({ page }) => {
    await begin(page, 'A folder');
    await drop(page, folder);
    await expect(page.getByRole('link', { name: '5 messages' })).toBeVisible();
    await page.getByRole('button', { name: 'show what became of each file' }).click();
    const files = page.getByRole('list', { name: 'What became of each file' });
    await expect(files.getByRole('listitem').filter({ hasText: 'Suppliers.mbox' })).toContainText('2 messages');
    await expect(files.getByText('passed over: no mail')).toBeVisible();
    await files.getByRole('listitem').filter({ hasText: '.Archive.2020/cur/' }).getByRole('link').click();
    await expect(page.getByText('1 of 5 messages')).toBeVisible();
    await expect(page.getByRole('link', { name: '石灰 lime' })).toBeVisible();
    await expect(page.getByRole('cell', { name: 'Archive/2020' })).toBeVisible();
  });
});

test('all rules are given to one account, and back', async ({ page }) => {
  await begin(page, 'Two accounts');
  const script =
    'require "fileinto";\n# Oak\nif header :contains "subject" "oak" { fileinto "Oak"; }\n# Rest\nif true { fileinto "Rest"; }\n';
  const separator = 'From x@y.example Thu Jan  1 10:00:00 2026\n';
  const addresses = ['me@mill.example', 'office@mill.example'];
  const mail = Array.from({ length: 20 }, (_, n) => `${separator}${letter(`oak ${n}`, addresses[n % 2])}\n`).join('');
  const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.locator('input[type=file]').setInputFiles([file('rules.sieve', script), file('INBOX.mbox', mail)]);
  const concerned = page.getByRole('combobox', { name: 'The mail that these rules concern' });
  await concerned.click();
  await page.getByRole('option', { name: 'mail to office@mill.example' }).click();
  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await expect(effect.getByText('Let 2 rules concern only mail to office@mill.example')).toBeVisible();
  await expect(effect.getByText('10 of 20 messages change their fate')).toBeVisible();
  await effect.getByRole('button', { name: 'Make this change' }).click();
  await expect(effect).toBeHidden();
  await expect(concerned).toHaveValue('mail to office@mill.example');
  await concerned.click();
  await page.getByRole('option', { name: 'mail to any address' }).click();
  await expect(effect.getByText('10 of 20 messages change their fate')).toBeVisible();
});
