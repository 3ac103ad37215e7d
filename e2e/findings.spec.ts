import { expect, test } from '@playwright/test';

test('findings are looked at by rule and kind, set aside with a reason, and taken up again', async ({ page }) => {
  await page.goto('/audits/demo/findings?kind=redundant');
  const list = page.getByRole('region', { name: 'Findings' });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  const claim = /“Camera restarts” is redundant/;
  await list.getByRole('link', { name: claim }).click();
  await expect(page.getByRole('heading', { name: claim })).toBeVisible();
  await expect(page.getByText('Proved: true for every possible message.')).toBeVisible();

  await page.getByLabel('Why this finding is set aside').fill('kept until the camera is replaced');
  await page.getByRole('button', { name: 'Set aside' }).click();
  await expect(list.getByRole('listitem')).toHaveCount(1);
  await page.getByRole('button', { name: 'set aside 1' }).click();
  await expect(list.getByRole('link', { name: claim })).toBeVisible();
  await list.getByRole('link', { name: claim }).click();
  await expect(page.getByText('kept until the camera is replaced')).toBeVisible();
  await page.getByRole('button', { name: 'Reopen' }).click();
  await expect(list.getByRole('link', { name: claim })).toBeHidden();

  await page.goto('/audits/demo/findings');
  await page.getByRole('combobox', { name: 'any rule' }).fill('Ferry');
  await page.getByRole('option', { name: 'Ferry times' }).click();
  await expect(page).toHaveURL(/rule=r\d+/);
  await expect(list.getByRole('link', { name: /has acted on no stored message/ })).toBeVisible();
});

test('what is only possible is shown by an example message, through the chain before and after the repair', async ({
  page,
}) => {
  await page.goto('/audits/demo/findings?basis=made-up&kind=order-conflict');
  await page.getByRole('region', { name: 'Findings' }).getByRole('link').nth(5).click();
  const way = page.getByRole('region', { name: 'One message through the chain' });
  await expect(way.getByText(/From: /)).toBeVisible();
  await expect(way.getByRole('heading', { name: 'The chain as it is' })).toBeVisible();
  await expect(way.getByRole('heading', { name: /^Move “/ })).toBeVisible();
});

test('the map of overlaps is walked by keyboard and leads to the pair; the whole leads to what it counts', async ({
  page,
}) => {
  await page.goto('/audits/demo/findings/overlaps');
  const map = page.getByRole('application', { name: /^Map/ });
  await map.focus();
  for (const key of ['ArrowRight', 'ArrowRight', 'ArrowDown', '+', '-']) await page.keyboard.press(key);
  await expect(page.getByText(/^2 Camera restarts with 3 Weir camera: \d+ stored messages$/)).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Camera restarts and Weir camera' })).toBeVisible();
  await expect(page.getByRole('link', { name: /both$/ })).toBeVisible();

  await page.goto('/audits/demo/findings/health');
  const untouched = page.getByRole('link', { name: /^\d+ of 3,561$/ }).first();
  const words = await untouched.textContent();
  await untouched.click();
  const count = words?.split(' ')[0];
  await expect(page.getByText(`${count} of 4,000 messages`, { exact: true })).toBeVisible();
});
