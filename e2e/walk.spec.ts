import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { VIEWS } from '../src/views';
import { noViolations } from './access';

const SCRIPT = `require ["fileinto", "imap4flags"];

# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }

# Flood
if header :contains "subject" "flood" { addflag "\\\\Flagged"; keep; stop; }

# Oak
if address :domain :is "from" "oak.example" { fileinto "Oak"; }

# Beams
if header :contains "subject" "beam" { fileinto "Beams"; }

# Broken
if vanish "x" { discard; }
`;

const message = (n: number, from: string, subject: string) =>
  `From ${from} Thu Jan  1 10:00:00 2026\nFrom: <${from}>\nTo: me@mill.example\nSubject: ${subject}\nDate: Thu, ${1 + (n % 28)} Jan 2026 10:00:00 +0000\n\nwords\n\n`;
const MAIL = [
  message(1, 'a@weir.example', 'weir: flood tonight'),
  message(2, 'b@weir.example', 'weir: flood is over'),
  message(3, 'c@oak.example', 'oak beam'),
  ...Array.from({ length: 40 }, (_, n) => message(n + 4, 'd@x.example', `letter ${n}`)),
].join('');

async function dropFiles(page: Page, files: { name: string; text: string }[]): Promise<void> {
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(
      files.map(({ name, text }) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(text) })),
    );
}

test('the whole way: bring in, look, find, mend, undo, export', async ({ page }, info) => {
  await page.goto('/');
  await expect(page.getByRole('link', { name: 'Hollin Weir Mill Trust' })).toBeVisible();
  await page.getByLabel('New audit').fill('My rules');
  await page.getByRole('button', { name: 'Create audit' }).click();
  await page.waitForURL('**/gather');
  await dropFiles(page, [
    { name: 'rules.sieve', text: SCRIPT },
    { name: 'INBOX.mbox', text: MAIL },
  ]);
  const receipts = page.getByRole('region', { name: 'Receipts' });
  await expect(receipts.getByText('4 rules, 1 kept word for word, 1 fault.')).toBeVisible();
  await expect(page.getByText('16:4: unknown test "vanish" (RFC 5228 section 2.5)')).toBeVisible();
  await expect(page.getByText('if vanish "x" { discard; }')).toBeVisible();
  await expect(page.getByText('43 messages').first()).toBeVisible();

  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await expect(page.getByText('43 messages pass 5 rules')).toBeVisible();
  await expect(page.getByText('41 of 43 reach the end of the chain')).toBeVisible();
  await page.getByRole('button', { name: /^1\s*Weir/ }).click();
  const hand = page.getByRole('complementary', { name: 'Selected rule' });
  await expect(hand.getByRole('heading', { name: 'Weir' })).toBeVisible();

  // Every number leads to its messages, and a message to its trace.
  await hand.getByRole('row', { name: 'are acted on' }).getByRole('link').click();
  await expect(page.getByText('2 of 43 messages')).toBeVisible();
  await page.getByRole('link', { name: 'weir: flood is over' }).click();
  await expect(page.getByText('1 of 1 rules that were tried act. The chain stops at 1 Weir.')).toBeVisible();
  await expect(page.locator('mark', { hasText: 'weir' })).toBeVisible();

  await page.getByRole('link', { name: 'Findings', exact: true }).click();
  await page.getByRole('navigation', { name: 'Pages of findings' }).getByRole('link', { name: 'Findings' }).click();
  const claim = '“Weir” stops 2 stored messages before “Flood” can mark them and keep them in the inbox.';
  await page.getByRole('link', { name: claim }).click();
  await expect(page.getByRole('heading', { name: claim })).toBeVisible();
  await expect(
    page.getByText('“Oak” does not stop, so it and “Beams” conflict: both file the same message.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Preview' }).first().click();
  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await expect(effect.getByText('2 of 43 messages have a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('heading', { name: claim })).toBeHidden();

  // The other two changes, from the chain.
  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await page.getByRole('button', { name: /^3\s*Oak/ }).click();
  await hand.getByText('stops', { exact: true }).click();
  await expect(effect.getByText('1 of 43 messages has a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(effect).toBeHidden();
  await page.getByRole('button', { name: /^4\s*Beams/ }).click();
  await expect(hand.getByRole('heading', { name: 'Beams' })).toBeVisible();
  await hand.getByRole('switch', { name: 'is on' }).click();
  await expect(effect.getByText('No stored message has a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(hand.getByText('is off')).toBeVisible();

  await page.getByRole('link', { name: 'Changes', exact: true }).click();
  await expect(
    page.getByRole('heading', { name: '3 of 43 messages have a different destination than before' }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('Switch “Beams” off').locator('..').getByText('undone')).toBeVisible();
  await page.reload();
  await expect(page.getByText('Switch “Beams” off').locator('..').getByText('undone')).toBeVisible();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByText('undone')).toBeHidden();

  await page.getByRole('link', { name: 'Export', exact: true }).click();
  await expect(
    page.getByRole('heading', { name: 'Verified: 43 of 43 messages have the same destination' }),
  ).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download script' }).click();
  const file = join(info.outputDir, 'rules.sieve');
  await (await download).saveAs(file);
  const text = readFileSync(file, 'utf8');
  expect(text.indexOf('# Flood')).toBeLessThan(text.indexOf('# Weir'));
  expect(text).not.toContain('# Beams');
  const checked = spawnSync(process.execPath, ['scripts/cli.mjs', 'check', file], { encoding: 'utf8' });
  expect([checked.status, checked.stdout, checked.stderr]).toEqual([0, '', '']);
});

test('a rule is edited as Sieve, with its faults, its rules and its effect beside it', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('New audit').fill('By hand');
  await page.getByRole('button', { name: 'Create audit' }).click();
  await page.waitForURL('**/gather');
  await dropFiles(page, [
    { name: 'rules.sieve', text: SCRIPT },
    { name: 'INBOX.mbox', text: MAIL },
  ]);
  await expect(page.getByText('43 messages').first()).toBeVisible();
  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await page.getByRole('button', { name: /^3\s*Oak/ }).click();
  await page.getByRole('link', { name: 'edit this text' }).click();
  await expect(page.getByRole('heading', { name: '“Oak” as Sieve' })).toBeVisible();
  const right = page.getByRole('region', { name: 'Rules in this text' });
  await expect(right.getByText('When the domain of From is “oak.example”: file into “Oak”')).toBeVisible();
  await expect(page.getByText('The text is identical to the chain.')).toBeVisible();

  // An error is reported while typing, at its place; its line leads there.
  const text = page.getByRole('textbox', { name: 'Sieve script' });
  await text.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.insertText('\n# Letters\nif header :contain "subject" "letter" {\n    fileinto "Letters";\n}\n');
  const fault = page.getByRole('button', {
    name: '8:11 header does not take :contain; did you mean ":contains"? (RFC 5228 section 5.7)',
  });
  await expect(fault).toBeVisible();
  await expect(page.locator('.cm-lintRange-error')).toHaveText(':contain');
  await fault.click();
  for (let count = 0; count < ':contain'.length; count++) await page.keyboard.press('ArrowRight');
  await page.keyboard.insertText('s');
  await expect(page.getByText('A server would accept this text.')).toBeVisible();
  await expect(right.getByRole('heading', { name: '2 rules' })).toBeVisible();

  // Completions at the cursor.
  await page.keyboard.press('Control+End');
  await page.keyboard.type('redi');
  await expect(page.getByRole('option', { name: 'redirect' })).toBeVisible();
  await page.keyboard.press('Escape');
  for (let count = 0; count < 4; count++) await page.keyboard.press('Backspace');
  await page.reload();
  await expect(right.getByText('When the subject contains “letter”: file into “Letters”')).toBeVisible();

  // Tests that were never evaluated are evaluated for the preview.
  await right.getByRole('button', { name: 'Preview' }).click();
  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await expect(effect.getByText('40 of 43 messages have a different destination')).toBeVisible();
  await effect.getByRole('button', { name: 'Apply' }).click();
  await page.waitForURL('**/chain**');
  await expect(page.getByText('43 messages pass 6 rules')).toBeVisible();
  await page.getByRole('button', { name: /^4\s*Letters/ }).click();
  await page.keyboard.press('Control+k');
  await page.getByRole('textbox', { name: 'Find everywhere' }).fill('undo');
  await page.keyboard.press('Enter');
  await expect(page.getByText('43 messages pass 5 rules')).toBeVisible();
});

test('bad files are told in plain words, and the server lives on', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('New audit').fill('Bad files');
  await page.getByRole('button', { name: 'Create audit' }).click();
  await page.waitForURL('**/gather');
  await dropFiles(page, [{ name: 'nothing.sieve', text: '' }]);
  await expect(page.getByText('“nothing.sieve” is empty.').first()).toBeVisible();
  await dropFiles(page, [{ name: 'a.zip', text: 'PK\u0003\u0004xxxx' }]);
  await expect(page.getByText('Nothing of this file was imported: the zip archive is damaged').first()).toBeVisible();
  await dropFiles(page, [{ name: 'rubbish.mbox', text: '\u0001\u0002 no mail \u0000'.repeat(200) }]);
  await expect(page.getByText('The file contains no mail').first()).toBeVisible();
  await dropFiles(page, [{ name: 'one.mbox', text: message(1, 'a@b.example', '<img src=x onerror=alert(1)>') }]);
  await expect(page.getByText('1 message', { exact: true })).toBeVisible();
  await dropFiles(page, [{ name: 'again.mbox', text: message(1, 'a@b.example', '<img src=x onerror=alert(1)>') }]);
  await expect(page.getByText('The same file was imported before, as “one.mbox”.').first()).toBeVisible();
  await page.getByRole('link', { name: 'Mail', exact: true }).click();
  await expect(page.getByText('<img src=x onerror=alert(1)>')).toBeVisible();
  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'There are no rules yet' })).toBeVisible();
});

const IN_AUDIT = VIEWS.flatMap(({ path, walked }) => walked.map((behind) => `/audits/demo/${path}${behind}`));

test.describe('each view of the demo', () => {
  for (const path of ['', '/language', '/help', ...IN_AUDIT]) {
    test(`${path || 'opening'}, in light and in dark: no fault of access, no error of script or policy`, async ({
      page,
    }) => {
      const errors: string[] = [];
      page.on('console', (entry) => entry.type() === 'error' && errors.push(entry.text()));
      page.on('pageerror', (error) => errors.push(error.message));
      const shown = page.locator('html');
      await page.emulateMedia({ colorScheme: 'light' });
      await page.goto(path || '/');
      await expect(page.locator('main').first()).toBeVisible();
      await expect(page.getByRole('row').nth(1).or(page.getByRole('heading').first()).first()).toBeVisible();
      await expect(shown).toHaveAttribute('data-mantine-color-scheme', 'light');
      await noViolations(page);
      await page.emulateMedia({ colorScheme: 'dark' });
      await expect(shown).toHaveAttribute('data-mantine-color-scheme', 'dark');
      await noViolations(page);
      expect(errors).toEqual([]);
      // A narrow window needs no horizontal scrolling.
      await page.setViewportSize({ width: 1024, height: 800 });
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
      // Nor does a phone's, but within a table or a row of filters.
      await page.setViewportSize({ width: 390, height: 800 });
      const widths = () =>
        page.evaluate(() => [
          document.documentElement.scrollWidth,
          ...Array.from(document.querySelectorAll('main'), (main) => main.scrollWidth),
        ]);
      await expect.poll(async () => Math.max(...(await widths()))).toBeLessThanOrEqual(390);
    });
  }
});

test('the ladder is walked by keyboard, and commands are found by keyboard', async ({ page }) => {
  await page.goto('/audits/demo/chain');
  await page.getByRole('group', { name: 'Chain' }).focus();
  await page.keyboard.press('ArrowDown');
  const hand = page.getByRole('complementary', { name: 'Selected rule' });
  await expect(hand.getByRole('heading', { name: 'Camera restarts' })).toBeVisible();
  await expect(page).toHaveURL(/#r2$/);
  await page.keyboard.press('Control+k');
  await page.getByRole('textbox', { name: 'Find everywhere' }).fill('findings');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/findings');
});
