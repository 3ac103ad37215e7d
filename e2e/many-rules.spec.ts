import { expect, test } from '@playwright/test';

/** More rules than pages render on the server; see `ofManyRules`. */
const RULES = 600;

test('a chain of 600 rules is shown, opened and exported, and the line of jobs moves nothing', async ({ page }) => {
  const begun = await page.request.post('/api/audits', { data: { name: 'many rules' } });
  const { id } = (await begun.json()) as { id: string };
  const rules = Array.from(
    { length: RULES },
    (_, n) => `# Rule ${n}\nif header :contains "subject" "word ${n} " { fileinto "Folder ${n % 40}"; stop; }\n`,
  );
  const headers = { 'x-file-name': 'rules.sieve', 'content-type': 'application/octet-stream' };
  const data = Buffer.from(`require "fileinto";\n${rules.join('')}`);
  expect((await page.request.post(`/api/audits/${id}/files`, { headers, data })).status()).toBe(201);

  await page.goto(`/audits/${id}/chain`);
  const chain = page.getByRole('group', { name: 'Chain' });
  await expect(chain.getByRole('button', { name: /^1\s*Rule 0/ })).toBeVisible();
  // What is looked for is found wherever it is, though only some rules are on the screen.
  const find = page.getByLabel('Find in the rules');
  await page.keyboard.press('Control+f');
  await expect(find).toBeFocused();
  await find.fill('word 599 ');
  await expect(chain.getByRole('button', { name: /^600\s*Rule 599/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByText('1 of 1', { exact: true })).toBeVisible();
  await page.getByLabel('only these').check();
  await expect(chain.getByRole('button')).toHaveCount(1);
  await find.fill('');
  const main = page.getByRole('main');
  const before = await main.boundingBox();
  expect(before).not.toBeNull();
  const mail = Buffer.from('From a@x.example Thu Jan  1 10:00:00 2026\nSubject: a word 7 here\n\nwords\n\n');
  await page.request.post(`/api/audits/${id}/files`, {
    headers: { ...headers, 'x-file-name': 'INBOX.mbox' },
    data: mail,
  });
  await expect(page.getByRole('status').getByText('Simulating: done.')).toBeVisible();
  expect(await main.boundingBox()).toEqual(before);
  await expect(page.getByRole('img', { name: '1 messages reach this rule, 1 are acted on' })).toBeVisible();

  await page.goto(`/audits/${id}/mail/0`);
  await expect(page.getByText('Rule 7', { exact: true }).first()).toBeVisible();
  await page.goto(`/audits/${id}/rules`);
  await expect(page.getByText('Rule 12', { exact: true }).first()).toBeVisible();
  await page.goto(`/audits/${id}/export`);
  await expect(page.getByText(`${RULES}, in`)).toBeVisible();
  await page.request.delete(`/api/audits/${id}`);
});
