import { expect, type Page, test } from '@playwright/test';
import { SHEET_COLUMNS } from '../src/core/rules/sheet';
import { THIRTY } from '../test/thirty-rules';
import { noViolations } from './access';
import { beginAudit, letterOf } from './begin';

test('rules are told in sentences: read back at once, counted, and added', async ({ page }) => {
  await page.goto('/audits/demo/sentences');
  const line = (number: number) => page.getByRole('textbox', { name: `Rule ${number}`, exact: true });
  await line(1).fill('Bank: mail from @fellbank.example into Accounts/Bank and mark as read');
  const first = page.getByRole('listitem').first();
  await expect(first).toContainText(
    'When the domain of From is “fellbank.example”: mark as seen and file into “Accounts/Bank”, then stop.',
  );
  await expect(first.getByRole('link')).toContainText(/\d+ of \d,\d\d\d/);
  await line(1).press('Enter');
  await expect(line(2)).toBeFocused();
  await line(2).fill('from ann.castle@fellmail.example when the moon is full into Photos');
  await expect(page.getByRole('listitem').nth(1)).toContainText('Not understood: moon is full');
  await expect(page.getByText('One rule has words that are not understood')).toBeVisible();
  await line(2).press('Alt+ArrowUp');
  await expect(line(1)).toHaveValue(/the moon/);
  await expect(line(1)).toBeFocused();
  // A pasted list becomes lines.
  await line(2).press('Enter');
  await line(3).evaluate((field) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', 'photo in the subject -> Photos\nkiln@stanhopelime.example\tSuppliers/Lime');
    field.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  });
  await expect(page.getByRole('listitem').nth(3)).toContainText('the address in From is “kiln@stanhopelime.example”');
  // What was typed is kept.
  await page.reload();
  await expect(line(4)).toHaveValue(/kiln@/);
  await line(5).waitFor({ state: 'detached' });
  await line(4).press('Enter');
  await line(5).pressSequentially('from felloak.exa');
  await page.getByRole('option', { name: '@felloak.example' }).waitFor();
  await line(5).press('ArrowDown');
  await line(5).press('Enter');
  await expect(line(5)).toHaveValue('from @felloak.example ');
  await line(5).pressSequentially('into Suppliers/Oak');
  await line(5).press('Escape');
  await page.getByRole('button', { name: 'Preview 5 rules' }).click();
  await page
    .getByRole('button', { name: 'Discard' })
    .or(page.getByRole('button', { name: 'Cancel' }))
    .first()
    .click();
});

test('rows of the sheet are counted and moved, and have columns of their own', async ({ page }) => {
  await page.goto('/audits/demo/sheet');
  await page.getByLabel('From, row 1', { exact: true }).fill('@fellbank.example');
  const row = (number: number) => page.getByRole('row').nth(number);
  await expect(row(1)).toContainText(/\d+ of \d,\d\d\d/);
  await page.getByLabel('Into folder, row 2', { exact: true }).fill('Odd');
  await expect(row(2)).toContainText('The row has no test: the rule is for all mail.');
  await page.getByLabel('From, row 1', { exact: true }).press('Alt+ArrowDown');
  await expect(page.getByLabel('From, row 2', { exact: true })).toHaveValue('@fellbank.example');
  await page.getByLabel('Header field for a column of its own').fill('X-Spam-Score');
  await page.getByRole('button', { name: 'Add column' }).click();
  await page.getByLabel('Field X-Spam-Score, row 2', { exact: true }).fill('5');
  await expect(row(2)).toContainText(/\d+ of \d,\d\d\d/);
});

test('a search becomes a rule; what no rule can say is told', async ({ page }) => {
  await page.goto('/audits/demo/mail?subject=flood&unseen=1');
  await page.getByRole('button', { name: 'Make a rule of this' }).click();
  await expect(page.getByText('No rule can test whether a message was seen: the rule leaves this out.')).toBeVisible();
  await page.getByRole('link', { name: 'Make the nearest rule' }).click();
  await expect(page.getByRole('region', { name: 'What it does' })).toContainText('When the subject contains “flood”');
  // What it catches needs no name.
  await page.getByRole('textbox', { name: /name/i }).first().fill('');
  await expect(page.getByRole('region', { name: 'What it does' })).toContainText(/of 3,\d\d\d/);
  await page.goto('/audits/demo/mail?unsubscribe=offered');
  await expect(page.getByText(/[1-9]\d* of \d,\d\d\d .*messages/)).toBeVisible();
});

test('a whole set of rules is learned from filed mail, and made without those that are left out', async ({ page }) => {
  await page.goto('/audits/demo/learned');
  await expect(
    page.getByRole('heading', { name: /^\d+ rules from your filing would file \d+ of \d+ newer messages as you did$/ }),
  ).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/Learned from the older 2,\d\d\d messages/)).toBeVisible();
  const boxes = page.getByRole('checkbox');
  const count = await boxes.count();
  expect(count).toBeGreaterThan(5);
  await boxes.first().uncheck();
  await page.getByText('instead of them, as a new chain').click();
  await expect(page.getByText('They replace the 80 rules of the draft.')).toBeVisible();
  await page.getByRole('button', { name: `Preview ${count - 1} rules` }).click();
  await expect(page.getByRole('region', { name: 'Effect of the change' })).toContainText(/of 3,\d\d\d/, {
    timeout: 60_000,
  });
});

/** Seconds for a key at 60 words a minute, five keys a word; and to think before each rule. */
const KEY = 0.2;
const THINKING = 5;

/** The rules of an audit in sentences, without their names. */
async function rulesOf(page: Page, id: string): Promise<string[]> {
  const text = await (await page.request.get(`/api/audits/${id}/sentences`)).text();
  return text.split('\n').flatMap((line) => (line.trim() === '' ? [] : [line.replace(/^[^“]*?: (?=When|For)/, '')]));
}

/** Previews the thirty rules and adds them by keyboard alone. */
async function addThirty(page: Page): Promise<void> {
  const preview = page.getByRole('button', { name: 'Preview 30 rules' });
  await expect(preview).toBeEnabled();
  await preview.press('Enter');
  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await expect(effect).toContainText('Add 30 rules', { timeout: 60_000 });
  await effect.getByRole('button', { name: 'Apply' }).press('Enter');
  await page.waitForURL('**/chain');
}

test('thirty mixed rules are typed by keyboard alone in under ten minutes, as sentences and as a sheet, and pasted as a list: all are one chain', async ({
  page,
}) => {
  test.setTimeout(600_000);
  const begin = async (name: string) => {
    const id = await beginAudit(page, name, [['mail.mbox', letterOf('oak')]]);
    // Whom “only to me” means is known before rules are typed.
    await page.request.put(`/api/audits/${id}/addresses`, { data: { addresses: ['me@home.example'] } });
    return id;
  };
  const line = page.getByRole('textbox', { name: 'Rule 1', exact: true });

  const told = await begin('Told');
  await page.goto(`/audits/${told}/sentences`);
  let seconds = 0;
  await line.focus();
  for (const [at, { sentence }] of THIRTY.entries()) {
    await page.keyboard.type(sentence);
    await page.keyboard.press('Escape');
    if (at < THIRTY.length - 1) await page.keyboard.press('Enter');
    seconds += THINKING + (sentence.length + 2) * KEY;
  }
  expect(seconds).toBeLessThan(600);
  test.info().annotations.push({ type: 'seconds as sentences', description: seconds.toFixed(0) });
  await expect(page.getByText('Not understood')).toHaveCount(0);
  await addThirty(page);

  const typed = await begin('Typed');
  await page.goto(`/audits/${typed}/sheet`);
  await page.getByRole('checkbox', { name: 'all columns' }).press('Space');
  const own = page.getByLabel('Header field for a column of its own');
  await own.focus();
  await page.keyboard.type('x-tag');
  await own.press('Enter');
  seconds = THINKING + 'x-tag'.length * KEY;
  const [named, ...others] = SHEET_COLUMNS.map(({ id }) => id);
  const columns = [...(named ? [named] : []), 'Field x-tag' as const, ...others];
  await page.getByLabel('Rule, row 1', { exact: true }).focus();
  const cell = () => page.evaluate(() => document.activeElement?.getAttribute('data-cell') ?? '');
  for (const [at, { cells }] of THIRTY.entries()) {
    seconds += THINKING;
    for (const column of columns) {
      const text = cells[column];
      if (text === undefined) continue;
      for (let tabs = 0; (await cell()) !== `${at} ${column}`; tabs++) {
        expect(tabs).toBeLessThan(80);
        await page.keyboard.press('Tab');
        seconds += KEY;
      }
      await page.keyboard.type(text);
      seconds += text.length * KEY;
    }
  }
  expect(seconds).toBeLessThan(600);
  test.info().annotations.push({ type: 'seconds as a sheet', description: seconds.toFixed(0) });
  await addThirty(page);

  const pasted = await begin('Pasted');
  await page.goto(`/audits/${pasted}/sentences`);
  await line.evaluate(
    (field, text) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', text);
      field.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    },
    THIRTY.map(({ listed }) => listed).join('\n'),
  );
  await expect(page.getByText('Not understood')).toHaveCount(0);
  await addThirty(page);

  const rules = await rulesOf(page, told);
  expect(rules).toHaveLength(30);
  expect(await rulesOf(page, typed)).toEqual(rules);
  expect(await rulesOf(page, pasted)).toEqual(rules);
});

test('a novel pasted as rules is told not to be understood, and 10,000 rows are typed among', async ({ page }) => {
  test.setTimeout(300_000);
  const id = await beginAudit(page, 'Much told', [['mail.mbox', letterOf('oak')]]);
  await page.goto(`/audits/${id}/sentences`);
  const paste = (text: string) =>
    page.getByRole('textbox', { name: 'Rule 1', exact: true }).evaluate((field, pasted) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', pasted);
      field.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    }, text);
  const chapter =
    'It was in the year when the weir broke, and nobody from the mill had gone into the yard before dawn.';
  await paste(Array.from({ length: 3000 }, (_, at) => `${chapter} Page ${at}.`).join('\n'));
  await expect(page.getByText(/have words that are not understood/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('textbox', { name: /^Rule \d/ }).first()).toBeEditable();

  await page.goto(`/audits/${id}/sheet`);
  await page.getByLabel('From, row 1', { exact: true }).evaluate(
    (field, pasted) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', pasted);
      field.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    },
    Array.from({ length: 10_000 }, (_, at) => `a${at}@oak.example`).join('\n'),
  );
  await expect(page.getByText(/10,000/).first()).toBeVisible({ timeout: 120_000 });
  await page.getByLabel('From, row 1', { exact: true }).fill('yard@oak.example');
  await expect(page.getByLabel('From, row 1', { exact: true })).toHaveValue('yard@oak.example');
  await expect(page.getByText('So many rules are counted after you add them.')).toBeVisible();
});

test('unwanted mail that offers no way to unsubscribe is proposed to be discarded by its senders', async ({ page }) => {
  const dated = (day: number, from: string, status: string) =>
    letterOf('letter', [`Status: ${status}`, `X-Day: ${day}`])
      .replace('yard@oak.example', from)
      .replace('1 Jan 2026', `${day} ${day > 25 ? 'Jun' : 'Jan'} 2026`);
  const read = Array.from({ length: 8 }, () => dated(28, 'ann@people.example', 'RO'));
  const unread = ['a', 'b'].flatMap((name) => [1, 2, 3].map((day) => dated(day, `${name}@prizes.example`, 'O')));
  const id = await beginAudit(page, 'Unwanted', [['INBOX.mbox', [...read, ...unread].join('')]]);
  await expect(async () => {
    await page.goto(`/audits/${id}/learned`);
    await expect(page.getByRole('region', { name: 'Unwanted mail' })).toBeVisible({ timeout: 2000 });
  }).toPass({ timeout: 60_000 });
  const unwanted = page.getByRole('region', { name: 'Unwanted mail' });
  await expect(unwanted.getByRole('heading')).toHaveText('2 senders offer no way to unsubscribe');
  await noViolations(page);
  await unwanted.getByRole('checkbox', { name: 'Discard mail from b@prizes.example' }).uncheck();
  await unwanted.getByRole('button', { name: 'Preview the rule' }).click();
  await unwanted.getByRole('button', { name: 'Apply' }).first().click();
  await page.waitForURL('**/chain');
  await expect(page.getByText('a@prizes.example').first()).toBeVisible();
});
