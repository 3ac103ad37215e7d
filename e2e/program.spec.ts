import { expect, test } from '@playwright/test';
import { noViolations } from './access';
import { beginAudit, letterOf } from './begin';

const SCRIPT = `require "fileinto";
# Bills
if header :contains "subject" "invoice" { fileinto "Bills"; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; }
`;

test('how the program runs the rules is chosen with its effect before, shown in the chain, and taken back', async ({
  page,
}) => {
  const id = await beginAudit(page, 'Told', [
    ['told.sieve', SCRIPT],
    ['mail.mbox', letterOf('Invoice for oak')],
  ]);
  await page.goto(`/audits/${id}/gather`);
  await expect(page.getByText('They run: One after another, as on a mail server with Sieve.')).toBeVisible();
  await page.getByText('Where do I get my rules and my mail?').click();
  await expect(page.getByText('Mail in the browser', { exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'How does your program run them?' }).click();
  await expect(page.getByRole('heading', { name: 'How does the program run your rules?' })).toBeVisible();
  await noViolations(page);

  await page.getByRole('radio', { name: /^Every rule that matches acts, in no order/ }).check();
  const effect = page.getByRole('region', { name: 'Effect of the change' });
  await expect(effect.getByText(/1 of 1/).first()).toBeVisible({ timeout: 60_000 });
  await page.getByRole('textbox', { name: 'The folder that is the bin' }).fill('Gone');
  await effect.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByText('(as your rules run now)')).toBeVisible();
  await expect(
    page.getByRole('radio', { name: /^Every rule that matches acts, in no order.*as your rules run now/ }),
  ).toBeChecked();

  // Nothing is said of what this program does not know.
  await page.goto(`/audits/${id}/chain`);
  await expect(page.getByText('When the subject contains “invoice”: file into “Bills”.').first()).toBeVisible();
  await page.goto(`/audits/${id}/export`);
  await expect(page.getByText('fileinto :copy "Bills";').first()).toBeVisible();
  await expect(page.getByRole('heading', { name: /^Verified: 1 of 1 / })).toBeVisible({ timeout: 60_000 });
  await page.goto(`/audits/${id}/changes`);
  await expect(page.getByText('Run the rules as another program does')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText(/, undone/).first()).toBeVisible();
  await page.request.delete(`/api/audits/${id}`);
});
