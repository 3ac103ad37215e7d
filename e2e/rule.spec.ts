import { expect, type Page, test } from '@playwright/test';
import { noViolations } from './access';

const form = (page: Page) => page.getByRole('region', { name: 'The rule', exact: true });
const effect = (page: Page) => page.getByRole('region', { name: 'What it does' });

async function undo(page: Page): Promise<void> {
  await page.goto('/audits/demo/changes');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText(/, undone/).first()).toBeVisible();
}

test('an exception is added to a rule, its effect known while it is typed, and taken back', async ({ page }) => {
  await page.goto('/audits/demo/chain#r8');
  const atHand = page.getByRole('complementary', { name: 'Selected rule' });
  await expect(atHand.getByRole('heading', { name: 'Calder oak yard' })).toBeVisible();
  await atHand.getByRole('link', { name: 'edit this rule' }).click();
  await expect(page.getByRole('heading', { name: /^Change “Calder oak yard”/ })).toBeVisible();
  await expect(effect(page).getByText(/0 gained, 0 lost; 0 of 3,561 have a different destination/)).toBeVisible();

  await form(page).getByRole('button', { name: 'an exception' }).click();
  await page.getByRole('menuitem', { name: /^the subject/ }).click();
  await expect(form(page).getByText('Enter what to look for.')).toBeVisible();
  await expect(effect(page).getByRole('button', { name: 'Apply' })).toBeDisabled();
  await form(page).getByRole('combobox', { name: 'words' }).last().fill('delivery');
  await page.keyboard.press('Enter');
  await expect(effect(page).getByText(/unless the subject contains “delivery”/)).toBeVisible();
  await expect(effect(page).getByText(/0 gained, [1-9]\d* lost/)).toBeVisible();
  const lost = effect(page).getByRole('region', { name: 'No longer acted on' });
  await expect(lost.getByRole('link', { name: /delivery/i }).first()).toBeVisible();

  await expect(
    effect(page)
      .getByText(/^(This change resolves no finding and adds none\.|Findings (resolved|added): \d+)$/)
      .first(),
  ).toBeVisible({ timeout: 60_000 });

  // An unfinished rule survives a reload.
  await page.reload();
  await expect(effect(page).getByText(/unless the subject contains “delivery”/)).toBeVisible();
  await page.getByRole('textbox', { name: 'Reason for the change' }).fill('deliveries are read at once');
  await effect(page).getByRole('button', { name: 'Apply' }).click();
  await expect(page).toHaveURL(/\/chain#r8$/);
  await expect(
    page
      .getByRole('complementary', { name: 'Selected rule' })
      .getByText(/“delivery”/)
      .first(),
  ).toBeVisible();
  await page.goto('/audits/demo/changes');
  await expect(page.getByText('Why: deliveries are read at once')).toBeVisible();
  await undo(page);
});

test('a new rule by keyboard and as Sieve; tests are moved, and what is wrong is told at its field', async ({
  page,
}) => {
  await page.goto('/audits/demo/rule?behind=r66');
  await expect(form(page).getByText('The rule has no name.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Name' }).fill('Kiln and quarry');
  await form(page).getByRole('button', { name: 'a test' }).click();
  await page.getByRole('menuitem', { name: /^the subject/ }).click();
  await form(page).getByRole('combobox', { name: 'words' }).fill('kiln');
  await page.keyboard.press('Enter');
  await form(page).getByRole('button', { name: 'a group' }).first().click();
  await expect(form(page).getByText('This group has no test, so it never matches.')).toBeVisible();
  // Down into the group below it.
  const grip = form(page).getByRole('button', { name: /^Move this test/ });
  await grip.focus();
  await page.keyboard.press('ArrowDown');
  await expect(form(page).getByText('This group has no test, so it never matches.')).toBeHidden();
  await expect(effect(page).getByText(/^When the subject contains “kiln”: stop\.$/)).toBeVisible();

  await form(page).getByRole('button', { name: 'an action' }).click();
  await page.getByRole('menuitem', { name: 'file into a folder' }).click();
  await expect(form(page).getByText('The folder has no name.')).toBeVisible();
  await page
    .getByRole('combobox', { name: 'Folder' })
    .or(page.getByRole('textbox', { name: 'Folder' }))
    .fill('Works/Kiln');
  await page.keyboard.press('Escape');
  await expect(effect(page).getByText(/It acts on \d+ of 3,561 messages/)).toBeVisible();

  const sieve = page.getByRole('textbox', { name: 'The rule as Sieve' });
  await expect(sieve).toHaveValue(/fileinto "Works\/Kiln";/);
  await form(page).getByRole('checkbox', { name: 'create the folder if it is missing' }).check();
  await expect(sieve).toHaveValue(/fileinto :create "Works\/Kiln";/);
  await expect(
    effect(page).getByText(/file into “Works\/Kiln”, creating it if it is missing, then stop/),
  ).toBeVisible();
  await form(page).getByRole('checkbox', { name: 'create the folder if it is missing' }).uncheck();
  await expect(sieve).toHaveValue(/fileinto "Works\/Kiln";/);
  await sieve.fill('# Kiln\nif header :regex "subject" "(kiln" { keep; }');
  await expect(effect(page).getByText(/this regular expression cannot be used/)).toBeVisible();
  await sieve.fill(
    '# Kiln and lime\nif anyof (header :contains "subject" "kiln", body :contains "lime") { fileinto "Works/Kiln"; }',
  );
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Kiln and lime');
  await expect(form(page).getByRole('combobox', { name: 'words' })).toHaveCount(2);
  await expect(effect(page).getByText(/It acts on \d+ of 3,561 messages/)).toBeVisible();

  await noViolations(page);
  await effect(page).getByRole('button', { name: 'Add rule' }).click();
  await expect(
    page.getByRole('complementary', { name: 'Selected rule' }).getByRole('heading', { name: 'Kiln and lime' }),
  ).toBeVisible();
  await undo(page);
});

test('further questions and actions have fields of their own, and are begun from the form', async ({ page }) => {
  await page.goto('/audits/demo/rule?behind=r66');
  await page.getByRole('textbox', { name: 'Name' }).fill('Away');
  await form(page).getByRole('button', { name: 'a test' }).click();
  await page.getByRole('menuitem', { name: /^another test/ }).click();
  const ask = async (question: string) => {
    await form(page).getByRole('combobox', { name: 'Which test' }).click();
    await page.getByRole('option', { name: question, exact: true }).click();
  };
  await ask('whether the message has arrived before');
  await form(page).getByRole('textbox', { name: 'Within seconds' }).fill('3600');
  const sieve = page.getByRole('textbox', { name: 'The rule as Sieve' });
  await expect(sieve).toHaveValue(/if duplicate :seconds 3600/);
  await ask('header fields');
  await form(page).getByRole('combobox', { name: 'Fields of' }).click();
  await page.getByRole('option', { name: 'of any MIME part' }).click();
  await form(page).getByRole('combobox', { name: 'Part of the value' }).click();
  await page.getByRole('option', { name: 'type and subtype' }).click();
  await expect(form(page).getByText('Enter what to look for.')).toBeVisible();
  await form(page).getByRole('combobox', { name: 'value to compare with' }).fill('text/calendar');
  await page.keyboard.press('Enter');
  await expect(sieve).toHaveValue(/header :mime :anychild :contenttype :is "Subject" "text\/calendar"/);

  await form(page).getByRole('button', { name: 'an action' }).click();
  await page.getByRole('menuitem', { name: 'send an automatic reply' }).click();
  await form(page).getByRole('textbox', { name: 'Text of the reply' }).fill('I am away until Monday.');
  await form(page).getByRole('textbox', { name: 'Subject', exact: true }).fill('Away');
  await form(page).getByRole('textbox', { name: 'Once in' }).fill('3');
  await form(page).getByRole('checkbox', { name: 'file a copy of the sent message' }).check();
  await expect(sieve).toHaveValue(/vacation :days 3 :subject "Away" :fcc "Sent" "I am away until Monday\."/);
  await form(page).getByRole('button', { name: 'write it as Sieve' }).last().click();
  await expect(form(page).getByRole('textbox', { name: 'The action as Sieve' })).toHaveValue(/^vacation :days 3/);
  await noViolations(page);
});

test('several rules are chosen by their words and changed at once, the effect shown first', async ({ page }) => {
  await page.goto('/audits/demo/rules');
  await page.getByRole('textbox', { name: 'Filter' }).fill('oak');
  await page.getByRole('checkbox', { name: /^all \d+ shown$/ }).check();
  const title = page.getByRole('heading', { name: /rules selected$/ });
  await expect(title).not.toHaveText(/^0 of/);
  await page.getByRole('button', { name: 'switch off' }).click();
  const shown = page.getByRole('region', { name: 'Effect of the change' });
  await expect(shown.getByText(/of 3,561 messages have a different destination/)).toBeVisible();
  await expect(shown.getByText(/^Findings resolved: \d+$/)).toBeVisible({ timeout: 60_000 });
  await shown.getByRole('button', { name: 'Apply' }).click();
  await expect(title).toHaveText(/^0 of 80/);
  await expect(page.getByText('off', { exact: true }).first()).toBeVisible();
  await undo(page);
});
