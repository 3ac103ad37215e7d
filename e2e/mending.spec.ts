import { expect, type Locator, type Page, test } from '@playwright/test';
import { noViolations } from './access';

/** Walks over the demo's audit; each leaves the draft as it was imported. */

const effectOf = (page: Page): Locator => page.getByRole('region', { name: 'Effect of the change' });
const history = (page: Page): Locator => page.getByRole('region', { name: 'History' });

test.afterEach(async ({ page }) => {
  for (let left = 30; left > 0; left--) {
    const answer = await page.request.post('/api/audits/demo/undo');
    if (!answer.ok()) break;
  }
});

/** A change as the interface makes it, for steps that only prepare a walk. */
async function change(page: Page, ...edits: object[]): Promise<void> {
  const answer = await page.request.post('/api/audits/demo/edits', { data: { edits, why: '' } });
  expect(answer.status(), await answer.text()).toBe(200);
}

test('from a finding to a repair that was tried beforehand and is accepted', async ({ page }) => {
  await page.goto(`/audits/demo/findings?finding=${encodeURIComponent('order-conflict r7 r8')}`);
  const claim = page.getByRole('heading', { name: /^“Invoices” comes before “Calder oak yard”/ });
  await expect(claim).toBeVisible();
  const ways = page.getByRole('region', { name: 'Repairs' });
  const best = ways.getByRole('listitem').first();
  await expect(best.getByText(/^resolves this finding.*(adds none|none graver)/)).toBeVisible({ timeout: 90_000 });
  await best.getByRole('button', { name: 'Preview' }).click();
  await expect(
    effectOf(page).getByText(/of 3,561 messages have a different destination|No stored message has/),
  ).toBeVisible();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(claim).toBeHidden({ timeout: 60_000 });
  await page.getByRole('link', { name: 'Changes', exact: true }).click();
  await expect(history(page).getByText(/^Why: “Invoices” comes before/)).toBeVisible();
});

test('repairs in the batch, with the one that stands in the way of another', async ({ page }) => {
  for (const [finding, title] of [
    ['idle r66', /Switch “Ferry times” off/],
    ['order-conflict r7 r8', /Add an exception to “Calder oak yard” for mail that matches “Invoices”/],
  ] as const) {
    await page.goto(`/audits/demo/findings?finding=${encodeURIComponent(finding)}`);
    const line = page.getByRole('region', { name: 'Repairs' }).getByRole('listitem').filter({ hasText: title });
    await line.getByRole('button', { name: 'add to batch' }).click();
    await expect(line.getByRole('button', { name: 'in the batch' })).toBeVisible();
  }
  await page.getByRole('link', { name: /repairs are in the batch$/ }).click();
  await expect(page.getByRole('heading', { name: 'Batch of 2 repairs' })).toBeVisible();
  await expect(
    effectOf(page)
      .getByText(/messages? ha/)
      .first(),
  ).toBeVisible();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('heading', { name: 'The batch is empty' })).toBeVisible();
  await page.goto('/audits/demo/changes');
  await expect(history(page).getByText(/^Switch “Ferry times” off; Rewrite “Calder oak yard”$/)).toBeVisible();
});

test('from messages to a widened rule, and to an exception', async ({ page }) => {
  await page.goto('/audits/demo/mail?from=accounts%40stanhopelime.example');
  const mark = page.getByRole('checkbox', { name: /^Select “/ });
  await mark.nth(0).check();
  await mark.nth(1).check();
  await expect(page.getByText('2 selected')).toBeVisible();
  await page.getByRole('link', { name: 'use as examples' }).click();
  await expect(page.getByRole('heading', { name: '2 messages as examples' })).toBeVisible();
  await page.getByRole('radio', { name: /^mail from any address at stanhopelime\.example and its subdomains/ }).check();
  await page.getByRole('button', { name: 'Extend “Stanhope lime”' }).click();
  await expect(page.getByText(/Proved superfluous, and removed/)).toBeVisible();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(history(page).getByText(/^Extend “Stanhope lime” to mail from any address/)).toBeVisible();

  await page.goto('/audits/demo/mail?rule=r51');
  await page
    .getByRole('checkbox', { name: /^Select “/ })
    .first()
    .check();
  await page.getByRole('link', { name: 'use as examples' }).click();
  await page.getByText('no rule should have acted on these').click();
  await expect(page.getByText(/exempts 1 of 1 selected, and \d+ of \d+ others that it acts on/).first()).toBeVisible();
  await noViolations(page);
  await page.getByRole('button', { name: 'Preview' }).first().click();
  await expect(effectOf(page).getByText(/have a different destination/)).toBeVisible();
});

test('an expectation is kept, stops what would break it, and is given up', async ({ page }) => {
  await page.goto('/audits/demo/expectations');
  await page.getByRole('textbox', { name: 'Name' }).fill('The grants office is filed');
  await page.getByRole('button', { name: 'a test' }).click();
  await page.getByRole('menuitem', { name: /^the subject/ }).click();
  await page.getByRole('combobox', { name: 'words' }).fill('grant');
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'What must happen to this mail' }).click();
  await page.getByRole('option', { name: 'be kept somewhere' }).click();
  await page.reload();
  await expect(page.getByText('Mail where the subject contains “grant” must be kept somewhere.')).toBeVisible();
  await page.getByRole('button', { name: 'Add expectation', exact: true }).click();
  const kept = page.getByRole('region', { name: 'Expectations' });
  await expect(kept.getByText(/^Stored mail: applies to \d+ of 3,561/)).toBeVisible();
  await expect(kept.getByText(/for all possible messages|A message can break this expectation/).first()).toBeVisible({
    timeout: 60_000,
  });
  await noViolations(page);

  await page.goto('/audits/demo/rule?rule=r29');
  await expect(page.getByRole('heading', { name: /^Change “/ })).toBeVisible();
  const dropping = { action: 'discard' };
  const chain = await page.request.get('/api/audits/demo/sheet');
  expect((await chain.text()).split('\r\n')[0]).toContain('Into folder');
  const rule = {
    kind: 'rule',
    id: 'drop-grants',
    name: 'Drop grants',
    note: '',
    on: true,
    tests: {
      kind: 'leaf',
      test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: ['grant'] },
    },
    unless: [],
    actions: [dropping],
    ending: 'stop',
    link: 'always',
  };
  const edits = [{ kind: 'rewrite', from: 0, before: [], after: [rule], closing: { before: '', after: '' } }];
  const answer = await page.request.post('/api/audits/demo/edits', { data: { edits, why: '' } });
  expect(answer.status()).toBe(409);
  expect(await answer.text()).toContain('breaks the expectation “The grants office is filed”');

  // The interface shows it before, and blocks the change.
  await page.goto(`/audits/demo/rule?tests=${encodeURIComponent(JSON.stringify(rule.tests))}&name=Drop`);
  await page.getByRole('button', { name: 'an action' }).click();
  await page.getByRole('menuitem', { name: 'discard', exact: true }).click();
  await expect(page.getByText('This change is blocked')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Add rule' })).toBeDisabled();

  await page.goto('/audits/demo/expectations');
  await page.getByRole('button', { name: 'delete: The grants office is filed' }).click();
  await expect(page.getByRole('heading', { name: 'No expectations yet' })).toBeVisible();
});

test('ten steps are undone and redone', async ({ page }) => {
  for (let n = 1; n <= 10; n++) await change(page, { kind: 'switch', id: `r${n}`, on: false });
  await page.goto('/audits/demo/changes');
  const undone = history(page).getByText(/, undone$/);
  const standing = page.getByRole('heading', { level: 1 });
  await expect(standing).toHaveText(/^[\d,]+ of 3,561 messages have a different destination than before$/);
  const before = await standing.textContent();
  for (let n = 1; n <= 10; n++) {
    await history(page).getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(undone).toHaveCount(n);
  }
  await expect(standing).toHaveText('No changes yet');
  await expect(history(page).getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
  for (let n = 9; n >= 0; n--) {
    await history(page).getByRole('button', { name: 'Redo' }).click();
    await expect(undone).toHaveCount(n);
  }
  await expect(standing).toHaveText(before ?? '');
});

test('a version is kept, compared with the draft, and gone back to; one change is taken back', async ({ page }) => {
  await change(page, { kind: 'move', ids: ['r5'], from: 4, to: 3, withinRun: false });
  await page.goto('/audits/demo/changes');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(/^76 of 3,561 messages/);
  const versions = page.getByRole('region', { name: 'Versions' });
  await versions.getByRole('textbox', { name: 'Version name' }).fill('floods first');
  await versions.getByRole('button', { name: 'Save version' }).click();
  await expect(versions.getByText('floods first', { exact: true })).toBeVisible();
  await change(page, { kind: 'switch', id: 'r33', on: false });

  await versions.getByRole('button', { name: 'compare with the draft' }).click();
  await expect(page).toHaveURL(/before=\d+&after=draft/);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    /^\d+ of 3,561 messages have a different destination under the draft than under “floods first”$/,
  );
  await expect(page.getByText('Some messages are treated differently')).toBeVisible({ timeout: 60_000 });
  const cell = page.getByRole('table', { name: 'From and to' }).getByRole('link').first();
  const count = await cell.textContent();
  await page.getByText(/^As scripts: 1 difference$/).click();
  await noViolations(page);
  await cell.click();
  await expect(page.getByText(`${count} of 4,000 messages`)).toBeVisible();
  await page.goBack();

  await versions.getByRole('button', { name: 'restore' }).click();
  await expect(effectOf(page).getByText('Restore “floods first”')).toBeVisible();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Both versions are identical');
  await expect(history(page).getByText('Restore “floods first”')).toBeVisible();

  await page.goto('/audits/demo/changes');
  const first = history(page).getByRole('listitem').filter({ hasText: 'Move “Flood warnings”' });
  await first.getByRole('button', { name: 'undo this change' }).click();
  await expect(effectOf(page).getByText(/^Undo: Move “Flood warnings”/)).toBeVisible();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(history(page).getByText(/^Undo: Move “Flood warnings”/)).toBeVisible();
  await page.getByRole('button', { name: 'remove floods first' }).click();
  await expect(versions.getByText('floods first', { exact: true })).toBeHidden();
});

const CSV = [
  'Name of it;Whom from;Words;Goes to;Passed on to',
  'Lantern walk;lanterns@dalewalks.example;;Reading/Walks;',
  'Kiln days;@stanhopelime.example;kiln;Suppliers/Lime;nobody',
  ';@nowhere.example;;Abroad;',
].join('\r\n');

test('a sheet with mistakes is brought in, mended cell by cell, and added', async ({ page }) => {
  await page.goto('/audits/demo/sheet');
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'rules.csv', mimeType: 'text/csv', buffer: Buffer.from(CSV) });
  const mapping = page.getByRole('region', { name: 'Columns' });
  for (const [column, meaning] of [
    [1, 'Rule'],
    [2, 'From'],
    [3, 'Subject has'],
    [4, 'Into folder'],
    [5, 'Redirect to'],
  ] as const) {
    await mapping.getByRole('combobox', { name: `Column ${column} is` }).click();
    await page.getByRole('option', { name: meaning, exact: true }).click();
  }
  await expect(mapping.getByRole('checkbox', { name: /^the first row contains/ })).toBeChecked();
  await mapping.getByRole('button', { name: 'Import 3 rows' }).click();

  const wrong = page.getByRole('list', { name: 'Errors in the sheet' });
  await expect(wrong.getByText('Row 2, Redirect to: “nobody” is not a complete address.')).toBeVisible();
  // A missing name is proposed.
  await expect(page.getByRole('textbox', { name: 'Rule, row 3' })).toHaveValue('nowhere.example');
  const look = page.getByRole('button', { name: /^Preview/ });
  await expect(look).toBeDisabled();
  await page.reload();
  await page.getByRole('textbox', { name: 'Redirect to, row 2' }).fill('kiln@stanhopelime.example');
  await page.getByRole('textbox', { name: 'Rule, row 3' }).fill('Nowhere');
  await expect(wrong).toBeHidden();
  await noViolations(page);

  // One more by quick entry.
  await page
    .getByRole('combobox', { name: 'Sender', exact: true })
    .or(page.getByRole('textbox', { name: 'Sender', exact: true }))
    .fill('@millsandrivers.example');
  await page.keyboard.press('Enter');
  await look.click();
  await expect(effectOf(page).getByText('Add 4 rules')).toBeVisible();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(page).toHaveURL(/\/chain$/);
  await page.goto('/audits/demo/changes');
  await expect(history(page).getByText('Add 4 rules')).toBeVisible();
  const out = await (await page.request.get('/api/audits/demo/sheet')).text();
  expect(out).toContain('Kiln days');
  expect(out).toContain('kiln@stanhopelime.example');
});

test('a named list is made, used by a test, and changed with its effect in all rules', async ({ page }) => {
  await page.goto('/audits/demo/lists');
  const editor = page.getByRole('region', { name: 'A new list' });
  await editor.getByRole('textbox', { name: 'Name' }).fill('Oak yards');
  await editor.getByRole('combobox', { name: 'addresses' }).fill('calderoak.example');
  await page.keyboard.press('Enter');
  await editor.getByRole('button', { name: 'Preview' }).click();
  await effectOf(page).getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('heading', { name: 'One named list' })).toBeVisible();

  await page.goto('/audits/demo/rule?rule=r9');
  await page
    .getByRole('region', { name: 'The rule', exact: true })
    .getByRole('combobox', { name: 'addresses' })
    .press('Backspace');
  await page.getByRole('combobox', { name: 'Or a list' }).click();
  await page.getByRole('option', { name: 'Oak yards' }).click();
  await expect(page.getByText(/the list “Oak yards” \(1\)/)).toBeVisible();
  const make = page.getByRole('button', { name: 'Apply' });
  await expect(make).toBeEnabled();
  await make.click();
  await expect(page).toHaveURL(/\/chain#r9$/);

  await page.goto('/audits/demo/lists');
  const list = page.getByRole('region', { name: 'The list Oak yards' });
  await expect(list.getByRole('link', { name: 'Fell oak' })).toBeVisible();
  await list.getByRole('combobox', { name: 'addresses' }).fill('felloak.example');
  await page.keyboard.press('Enter');
  await list.getByRole('button', { name: 'Preview' }).click();
  await expect(effectOf(page).getByText('In the list “Oak yards”: add “felloak.example”')).toBeVisible();
  await expect(effectOf(page).getByText(/of 3,561 messages have a different destination/)).toBeVisible();
  await noViolations(page);
});
