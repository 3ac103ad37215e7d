import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { noViolations } from './access';
import { beginAudit, letterOf } from './begin';

const letter = (subject: string, to = 'me@mill.example') =>
  `From: a@x.example\nTo: ${to}\nDelivered-To: ${to}\nSubject: ${subject}\nDate: Thu, 1 Jan 2026 10:00:00 +0000\n\nwords\n`;

/** Drops a file or folder of this machine on the page, as a desktop does. */
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
  await page.getByLabel('New audit').fill(name);
  await page.getByRole('button', { name: 'Create audit' }).click();
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
    await page.getByRole('button', { name: 'show contents of each file' }).click();
    const files = page.getByRole('list', { name: 'Result for each file' });
    await expect(files.getByRole('listitem').filter({ hasText: 'Suppliers.mbox' })).toContainText('2 messages');
    await expect(files.getByText('skipped: not mail')).toBeVisible();
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
  const concerned = page.getByRole('combobox', { name: 'Mail these rules apply to' });
  await concerned.click();
  await page.getByRole('option', { name: 'mail to office@mill.example' }).click();
  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await expect(effect.getByText('Apply 2 rules only to mail to office@mill.example')).toBeVisible();
  await expect(effect.getByText('10 of 20 messages have a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(effect).toBeHidden();
  await expect(concerned).toHaveValue('mail to office@mill.example');
  await concerned.click();
  await page.getByRole('option', { name: 'mail to any address' }).click();
  await expect(effect.getByText('10 of 20 messages have a different destination')).toBeVisible();
});

const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
const separator = 'From x@y.example Thu Jan  1 10:00:00 2026\n';
const rule = (name: string) =>
  `require "fileinto";\n# ${name}\nif header :contains "subject" "${name}" { fileinto "${name}"; }\n`;

test('several files of rules are put in order before they are read, and moved, read again and removed with their effect first', async ({
  page,
}) => {
  await begin(page, 'Three scripts');
  const picker = page.locator('input[type=file]').first();
  await picker.setInputFiles([
    file('10 elm.sieve', rule('elm')),
    file('2 oak.sieve', rule('oak')),
    file('1 ash.sieve', rule('ash')),
    file('INBOX.mbox', ['oak', 'elm', 'lime'].map((subject) => `${separator}${letter(subject)}\n`).join('')),
  ]);
  const order = page.getByRole('region', { name: 'Order of the rules' });
  await expect(order.getByRole('listitem')).toContainText(['1 ash.sieve', '2 oak.sieve', '10 elm.sieve']);
  await order.getByRole('button', { name: 'Move 1 ash.sieve down' }).click();
  await expect(order.getByRole('listitem')).toContainText(['2 oak.sieve', '1 ash.sieve', '10 elm.sieve']);
  await noViolations(page);
  // Nothing is imported before; files dropped meanwhile join in.
  await expect(page.getByRole('region', { name: 'Receipts' })).toBeHidden();
  await picker.setInputFiles([file('3 beech.sieve', rule('beech'))]);
  await expect(order.getByRole('listitem')).toHaveCount(4);
  await order.getByRole('button', { name: 'Leave 3 beech.sieve out' }).click();
  await order.getByRole('button', { name: 'Import in this order' }).click();
  const receipts = page.getByRole('region', { name: 'Receipts' });
  await expect(receipts.getByRole('listitem')).toHaveCount(4);
  await expect(receipts.getByText('3 messages.')).toBeVisible();
  const scripts = page.locator('article[id^=script-]');
  await expect(scripts).toContainText(['2 oak.sieve', '1 ash.sieve', '10 elm.sieve']);
  await receipts.getByRole('button', { name: 'dismiss the receipt of 1 ash.sieve' }).click();
  await expect(receipts.getByRole('listitem')).toHaveCount(3);
  await page.reload();
  await receipts.getByRole('button', { name: 'dismiss all' }).click();
  await expect(receipts).toBeHidden();

  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await page.getByRole('button', { name: 'move up: 10 elm.sieve' }).click();
  await expect(effect.getByText('No stored message has a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(scripts).toContainText(['2 oak.sieve', '10 elm.sieve', '1 ash.sieve']);

  await page.getByRole('button', { name: 'remove: 2 oak.sieve' }).click();
  await expect(effect.getByText('1 of 3 messages has a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(scripts.filter({ hasText: '2 oak.sieve' })).toContainText('none of them in the chain');

  await page
    .locator('article', { hasText: '10 elm.sieve' })
    .locator('input[type=file]')
    .setInputFiles([file('elm anew.sieve', rule('lime'))]);
  await expect(effect.getByText('2 of 3 messages have a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await page.goto(page.url().replace(/gather$/, 'changes'));
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('link', { name: 'Gather' }).click();
  await expect(scripts.filter({ hasText: '10 elm.sieve' })).not.toContainText('none of them');
});

test('mail is removed with its effect first, restored, and replaced by a newer file', async ({ page }) => {
  await begin(page, 'Mail that goes');
  const mail = (...subjects: string[]) => subjects.map((subject) => `${separator}${letter(subject)}\n`).join('');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([file('oak.sieve', rule('oak')), file('A.mbox', mail('oak', 'ash')), file('B.mbox', mail('oak 2'))]);
  await expect(page.getByRole('link', { name: '1 message', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'remove: A.mbox' }).click();
  const effect = page.getByRole('region', { name: 'Effect of removing A.mbox' });
  await expect(effect).toContainText('2 of 3 stored messages are removed');
  await expect(effect.getByRole('row', { name: 'oak 2 1' })).toBeVisible();
  await noViolations(page);
  await effect.getByRole('button', { name: 'Remove' }).click();
  const source = page.locator('article', { hasText: 'A.mbox' });
  await expect(source).toContainText('removed');
  await expect(page.getByRole('cell', { name: 'A', exact: true })).toBeHidden();
  await page.getByRole('button', { name: 'restore: A.mbox' }).click();
  await expect(page.getByRole('cell', { name: 'A', exact: true })).toBeVisible();

  await source.locator('input[type=file]').setInputFiles([file('A.mbox', mail('ash', 'lime', 'elm'))]);
  await expect(source.filter({ hasText: 'removed' })).toHaveCount(1);
  await page.getByRole('link', { name: 'Mail', exact: true }).click();
  await expect(page.getByText('4 of 4 messages')).toBeVisible();
  await expect(page.getByRole('link', { name: 'oak', exact: true })).toBeHidden();
});

test('what the user sent is counted only if they want it', async ({ page }) => {
  await begin(page, 'Sent mail');
  const sent = (subject: string) =>
    `${separator}From: me@mill.example\nTo: a@x.example\nSubject: ${subject}\nDate: Thu, 1 Jan 2026 10:00:00 +0000\n\nwords\n\n`;
  const mail = Array.from({ length: 8 }, (_, n) => `${separator}${letter(`oak ${n}`)}\n`).join('') + sent('oak 9');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([file('oak.sieve', rule('oak')), file('INBOX.mbox', mail)]);
  await expect(page.getByRole('link', { name: '9 messages', exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await expect(page.getByRole('link', { name: '1 message you sent' })).toBeVisible();
  await expect(page.getByText('8 messages pass')).toBeVisible();
  await page.getByRole('button', { name: 'Include them' }).click();
  await expect(page.getByText('9 messages pass')).toBeVisible();
  await page.getByRole('button', { name: 'Exclude them' }).click();
  await expect(page.getByText('8 messages pass')).toBeVisible();
  await page.getByRole('link', { name: '1 message you sent' }).click();
  await expect(page.getByText('1 of 9 messages')).toBeVisible();
  await expect(page.getByRole('cell', { name: 'sent by you' })).toBeVisible();
  await page.getByRole('link', { name: 'oak 9' }).click();
  await expect(page.getByText('You sent this message, so it is not counted.')).toBeVisible();
});

test('one big file becomes folders by a header field, and one file again', async ({ page }) => {
  const places = ['Inbox', 'Oak', 'Inbox,Oak', '"Lime, mortar"'];
  const mail = Array.from({ length: 40 }, (_, at) => {
    return letterOf(`letter ${at}`, [`X-Places: ${places[at % places.length]}`]);
  });
  const id = await beginAudit(page, 'One big file', [['All.mbox', mail.join('')]]);
  await page.goto(`/audits/${id}/gather`);
  const note = page.getByRole('note').filter({ hasText: 'x-places' });
  await expect(note).toContainText('40 of 40 messages have a field x-places that looks like their place', {
    timeout: 30_000,
  });
  await expect(note).toContainText('10 are in several');
  await noViolations(page);
  await note.getByRole('button', { name: 'Take folders from it' }).click();
  await expect(page.getByText('Folders come from the field x-places')).toBeVisible();
  await page.goto(`/audits/${id}/mail?folder=INBOX`);
  await expect(page.getByText('20 of 40 messages', { exact: true })).toBeVisible({ timeout: 30_000 });
  await page.goto(`/audits/${id}/gather`);
  await page.getByRole('button', { name: 'Take them from the files again' }).click();
  await expect(note).toContainText('looks like their place');
});
