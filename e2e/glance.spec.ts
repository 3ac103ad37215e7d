import { expect, type Page, test } from '@playwright/test';
import { noViolations } from './access';
import { beginAudit, letterOf } from './begin';

/** What is seen first, what is found, and other windows and scripts. */

const RULES = `require "fileinto";
# Oak beams
if header :contains "subject" "oak" { fileinto "Timber"; stop; }
# 請求書
if header :contains "subject" "請求書" { fileinto "Bills"; stop; }
`;

const find = (page: Page) => page.getByRole('textbox', { name: 'Find everywhere' });
const open = async (page: Page) => {
  // One that is just closing still has the focus.
  await expect(find(page)).toHaveCount(0);
  await page.keyboard.press('Control+k');
  await expect(find(page)).toBeFocused();
};

test('the first page shows what comes out, and leads into the sample', async ({ page }) => {
  await page.goto('/');
  const picture = page.getByRole('figure');
  await expect(picture.getByText('3,561 messages pass 80 rules.')).toBeVisible();
  await expect(picture.getByRole('img', { name: '3561 messages reach this rule, 73 are acted on' })).toBeVisible();
  await picture.getByRole('link', { name: /^Weir camera/ }).click();
  await expect(page.getByRole('heading', { name: 'Weir camera' })).toBeVisible();
  await page.goto('/');
  await page.getByRole('link', { name: 'Look around with sample data' }).click();
  await expect(page).toHaveURL(/\/audits\/demo\//);
});

test('one field finds rules, folders, messages and findings, and each leads to its page', async ({ page }) => {
  await page.goto('/audits/demo/chain');
  await open(page);
  await find(page).fill('weir camera');
  const list = page.getByRole('dialog');
  await expect(list.getByRole('button', { name: /^3 Weir camera/ })).toBeVisible();
  await noViolations(page);
  await list.getByRole('button', { name: /^3 Weir camera/ }).click();
  await expect(page).toHaveURL(/\/chain#r3$/);

  await open(page);
  await find(page).fill('suppliers/oak');
  await list.getByRole('button', { name: /^Suppliers\/Oak 218 messages/ }).click();
  await expect(page.getByText('218 of 4,000 messages')).toBeVisible();

  await open(page);
  await find(page).fill('rota');
  await list.getByRole('button', { name: /^All \d+ messages with “rota”/ }).click();
  await expect(page).toHaveURL(/mail\?head=rota/);
  await expect(page.getByRole('button', { name: /with words in sender, recipients or subject/ })).toBeVisible();

  await open(page);
  await find(page).fill('never acts');
  await list
    .getByRole('button', { name: /never acts/ })
    .first()
    .click();
  await expect(page).toHaveURL(/findings\?finding=/);

  await open(page);
  await find(page).fill('no such words at all');
  await expect(list.getByText('Nothing contains “no such words at all”.')).toBeVisible();
});

test('what is typed into a search that is opened while it closes is kept', async ({ page }) => {
  await page.goto('/audits/demo/chain');
  await open(page);
  await page.keyboard.type('weir');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await expect(find(page)).toBeFocused();
  await expect(find(page)).toHaveValue('');
  await page.keyboard.type('oak');
  await expect(page.getByText('Calder oak yard').first()).toBeVisible();
  await expect(find(page)).toHaveValue('oak');
  // It opens from any other field, too.
  await page.keyboard.press('Escape');
  await page.getByRole('textbox', { name: 'Find in the rules' }).or(page.getByPlaceholder('find in the rules')).focus();
  await page.keyboard.press('Control+k');
  await expect(find(page)).toBeFocused();
});

test('a button that does nothing says why, under the pointer and with the focus', async ({ page }) => {
  await page.goto('/audits/demo/expectations');
  const add = page.getByRole('button', { name: 'Add expectation', exact: true });
  await expect(add).toBeDisabled();
  await add.focus();
  await expect(page.getByRole('tooltip', { name: 'The expectation has no name.' })).toBeVisible();
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Name' }).fill('Grants');
  await add.hover();
  await expect(page.getByRole('tooltip', { name: /^Add a test/ })).toBeVisible();
});

test('names and subjects in other scripts are shown with the fonts that are shipped', async ({ page, browser }) => {
  const id = await beginAudit(page, 'Other scripts', [
    ['rules.sieve', RULES],
    [
      'INBOX.mbox',
      ['請求書 十月', 'فاتورة أكتوبر', 'अक्टूबर का बिल', 'oak 🌳'].map((subject) => letterOf(subject)).join(''),
    ],
  ]);
  await page.goto(`/audits/${id}/mail`);
  await expect(page.getByText('فاتورة أكتوبر')).toBeVisible();
  const loaded = (shown: Page) =>
    shown.evaluate(() => [
      ...new Set([...document.fonts].filter(({ status }) => status === 'loaded').map(({ family }) => family)),
    ]);
  for (const family of [
    'Noto Sans JP Variable',
    'Noto Sans Arabic Variable',
    'Noto Sans Devanagari Variable',
    'Noto Emoji Variable',
  ])
    await expect.poll(async () => (await loaded(page)).join()).toContain(family);
  // Nothing of them is loaded where it is not needed.
  const other = await (await browser.newContext({ baseURL: new URL(page.url()).origin })).newPage();
  await other.goto('/audits/demo/chain');
  await expect(other.getByRole('button', { name: /^1\s*Urgent for the coordinator/ })).toBeVisible();
  expect((await loaded(other)).join()).not.toContain('Noto');
  await other.context().close();
  await page.request.delete(`/api/audits/${id}`);
});

test('on a phone a question is answered by thumb, and an editor says that it wants more room', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto('/audits/demo/rule?rule=r1');
  await expect(page.getByText(/needs a window of at least 760 pixels/)).toBeVisible();
  await expect(page.getByRole('region', { name: 'The rule', exact: true })).toBeHidden();
  await page.goto('/audits/demo/chain');
  await expect(page.getByRole('button', { name: /^1\s*Urgent for the coordinator/ })).toBeVisible();
  await expect(page.getByRole('img', { name: /reach this rule/ })).toHaveCount(0);
  await page.goto('/audits/demo/plan');
  await expect(page.getByText(/^Question 1 of \d+/)).toBeVisible({ timeout: 60_000 });
  const answer = page.getByRole('button', { name: /^1 / });
  await answer.scrollIntoViewIfNeeded();
  expect((await answer.boundingBox())?.height).toBeGreaterThanOrEqual(40);
  await answer.click();
  await expect(page.getByRole('button', { name: 'Save this answer' })).toBeVisible();
});

for (const colorScheme of ['light', 'dark'] as const) {
  test.describe(`in ${colorScheme}`, () => {
    test.use({ colorScheme });

    test(`open lists, menus, calendars and the search are accessible in ${colorScheme}`, async ({ page }) => {
      await page.goto('/audits/demo/chain');
      await page.getByRole('button', { name: 'See and edit otherwise' }).click();
      await expect(page.getByRole('menuitem').first()).toBeFocused();
      await noViolations(page);
      await page.keyboard.press('Escape');
      await page.keyboard.press('Control+k');
      await page.getByRole('textbox', { name: 'Find everywhere' }).fill('weir');
      await expect(
        page.getByRole('dialog', { name: 'Find everywhere' }).getByText('Weir camera').first(),
      ).toBeVisible();
      await noViolations(page);

      await page.goto('/audits/demo/mail');
      await page.getByRole('button', { name: 'from one day to another' }).click();
      await expect(page.getByRole('dialog', { name: 'from one day to another' })).toBeVisible();
      await noViolations(page);
      await page.keyboard.press('Escape');

      await page.goto('/audits/demo/findings');
      await page.getByPlaceholder('kind').click();
      await expect(page.getByRole('option').first()).toBeVisible();
      await noViolations(page);

      await page.goto('/audits/demo/expectations');
      await page.getByRole('button', { name: 'a test' }).click();
      await expect(page.getByRole('menuitem').first()).toBeVisible();
      await noViolations(page);
    });
  });
}

test('the first stop of the keyboard skips to the view', async ({ page }) => {
  await page.goto('/audits/demo/mail');
  await page.keyboard.press('Tab');
  await expect(page.getByRole('button', { name: 'Skip to the view' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('main')).toBeFocused();
});
