import { expect, test } from '@playwright/test';
import { noViolations } from './access';
import { beginAudit, letterOf } from './begin';

const SENTENCES = `Bills: mail with invoice in the subject into Bills
Oak: from @oak.example into Oak
Noise: with raffle in the subject, delete
`;

test('changes to rules that were told in a text file are done by hand: ticked off, kept, printed and reported', async ({
  page,
}) => {
  const id = await beginAudit(page, 'By hand', [
    ['rules.txt', SENTENCES],
    ['mail.mbox', letterOf('Invoice for oak')],
  ]);
  await page.goto(`/audits/${id}/steps`);
  await expect(page.getByText('there is nothing to do by hand')).toBeVisible({ timeout: 60_000 });
  const told = await (await page.request.get(`/api/audits/${id}/sentences`)).text();
  expect(told).toContain('Bills: When the subject contains “invoice”: file into “Bills”, then stop.');
  const archive = await (await page.request.get(`/api/audits/${id}/archive`)).json();
  const { entries } = archive.draft ?? archive.chain;
  const [bills] = entries;
  const edits = [
    {
      kind: 'rewrite',
      from: 0,
      before: [bills],
      after: [{ ...bills, ending: 'continue' }],
      closing: { before: '', after: '' },
    },
  ];
  expect((await page.request.post(`/api/audits/${id}/edits`, { data: { edits, why: '' } })).ok()).toBe(true);
  await expect(async () => {
    await page.goto(`/audits/${id}/steps`);
    await expect(page.getByText('1. Change the rule “Bills”')).toBeVisible({ timeout: 2000 });
  }).toPass({ timeout: 60_000 });
  await expect(page.getByText('file into “Bills”; later rules still run.')).toBeVisible();
  await noViolations(page);
  await page.getByRole('checkbox').check();
  await expect(page.getByText('All steps are done.')).toBeVisible();
  await page.reload();
  await expect(page.getByText('All steps are done.')).toBeVisible();
  const report = await (await page.request.get(`/api/audits/${id}/report?form=markdown`)).text();
  expect(report).toContain('Change the rule “Bills”');
});
