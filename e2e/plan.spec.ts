import { expect, type Page, test } from '@playwright/test';
import { noViolations } from './access';
import { beginAudit } from './begin';

/** The plan: from dropped files to a script that is handed over, answers taken back, answers that contradict each other. */

const RULES = `require ["fileinto"];
# School
if address :domain :is "from" "school.example" { fileinto "School"; stop; }
# Bookings
if header :contains "subject" "booking" { fileinto "Bookings"; stop; }
# Power
if address :domain :is "from" "power.example" { fileinto "Bils"; stop; }
# Rota
if header :contains "subject" ["rota", "the rota"] { fileinto "Rota"; stop; }
`;

/** Messages of one sender, in a file named after their folder. */
function lettersOf(count: number, from: string, subject: string): string {
  return Array.from({ length: count }, (_, at) =>
    [
      'From a@b Thu Jan  1 10:00:00 2026',
      `From: ${from}`,
      'To: kit@home.example',
      `Date: Thu, ${(at % 28) + 1} Jan 2026 10:00:00 +0000`,
      `Message-ID: <${from}.${subject.length}.${at}@mail.example>`,
      'Status: RO',
      `Subject: ${subject} ${at}`,
      '',
      'Words.',
      '',
      '',
    ].join('\n'),
  ).join('');
}

const MAIL = [
  [
    'INBOX.mbox',
    lettersOf(8, 'office@school.example', 'Booking of the hall') +
      lettersOf(6, 'office@school.example', 'Rota of helpers'),
  ],
  ['School.mbox', lettersOf(12, 'office@school.example', 'Term dates')],
  ['Bookings.mbox', lettersOf(5, 'hall@village.example', 'Booking')],
  ['Bills.mbox', lettersOf(20, 'bill@power.example', 'Your bill')],
] as const;

async function begin(page: Page): Promise<string> {
  const id = await beginAudit(page, 'Plan', [['rules.sieve', RULES], ...MAIL]);
  await page.goto(`/audits/${id}/plan`);
  await expect(page.getByRole('heading', { name: /^\d+ changes resolve \d+ of \d+ confirmed findings/ })).toBeVisible({
    timeout: 90_000,
  });
  return id;
}

/** Opens a question, and waits until it is the one that is shown. */
async function openQuestion(page: Page, subject: RegExp): Promise<void> {
  await page.getByRole('region', { name: 'Questions' }).getByRole('link', { name: subject }).click({ timeout: 60_000 });
  const question = page.getByRole('article', { name: 'Question' });
  await expect(question.getByRole('heading', { name: subject })).toBeVisible();
}

test('a newcomer goes from dropped files through the plan to a script that is handed over', async ({ page }) => {
  await page.goto('/');
  const files = [['rules.sieve', RULES] as const, ...MAIL].map(([name, text]) => {
    return { name, mimeType: 'application/octet-stream', buffer: Buffer.from(text) };
  });
  await page.locator('input[type="file"]').first().setInputFiles(files);
  await expect(page).toHaveURL(/\/audits\/[^/]+\/gather/);
  const path = new URL(page.url()).pathname.replace('/gather', '');
  await page.getByRole('link', { name: 'Findings', exact: true }).click();
  await expect(page).toHaveURL(/\/plan$/);
  await expect(page.getByRole('heading', { name: /confirmed findings/ })).toBeVisible({ timeout: 90_000 });
  await noViolations(page);

  // Tidy: opened, then applied.
  const tidy = page.getByRole('region', { name: 'Tidy' });
  await expect(tidy).toContainText('Proved: no message is treated differently');
  await tidy.getByRole('link', { name: /remove the key “the rota”/ }).press('Enter');
  const step = page.getByRole('article', { name: 'Step' });
  await expect(step).toContainText('No stored message has a different destination');
  await step.getByText('As scripts: 1 difference').click();
  await expect(step).toContainText('"the rota"');
  await step.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('region', { name: 'Applied' })).toContainText('remove the key “the rota”');

  // Mend: what speaks for it leads to the messages.
  const mend = page.getByRole('region', { name: 'Mend' });
  await mend.getByRole('link', { name: /Bills/ }).click({ timeout: 60_000 });
  await expect(step).toContainText('Moves 20 of 51 messages');
  await expect(step).toContainText('Speaking for it: 20; against it: 0');
  await mend.getByRole('button', { name: 'Apply this change' }).click();
  await expect(page.getByRole('region', { name: 'Applied' })).toContainText('Bills', { timeout: 60_000 });

  // The question is answered by keyboard, and its change applied.
  await openQuestion(page, /Booking of the hall/);
  const question = page.getByRole('article', { name: 'Question' });
  const option = question.getByRole('button', { name: /^\d Bookings$/ });
  await question.press((await option.locator('kbd').textContent()) ?? '');
  const answer = page.getByRole('region', { name: 'Your answer' });
  await expect(answer).toContainText('must end in “Bookings”.');
  await expect(answer.getByRole('button', { name: 'Save this answer' })).toBeFocused();
  await page.keyboard.press('Enter');
  const questions = page.getByRole('region', { name: 'Questions' });
  await expect(questions).toContainText('✓');
  await questions.getByRole('button', { name: 'Apply this change' }).click({ timeout: 60_000 });
  await expect(page.getByRole('region', { name: 'Applied' }).getByRole('listitem')).toHaveCount(3, { timeout: 60_000 });

  // What was applied is in the script.
  await page.goto(`${path}/export`);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download script' }).click({ timeout: 60_000 });
  expect((await download).suggestedFilename()).toContain('sieve');
});

test('a wrong answer is taken back with the change it asked for', async ({ page }) => {
  await begin(page);
  await openQuestion(page, /Booking of the hall/);
  const question = page.getByRole('article', { name: 'Question' });
  await question.getByRole('button', { name: 'Somewhere else…' }).click();
  await page.getByRole('combobox', { name: 'Folder that this message belongs in' }).fill('Wrong');
  await page.getByRole('button', { name: 'Choose this folder' }).click();
  await page.getByRole('button', { name: 'Save this answer' }).click();
  const questions = page.getByRole('region', { name: 'Questions' });
  await expect(questions).toContainText('must end in “Wrong”');
  await questions.getByRole('button', { name: 'Apply this change' }).click({ timeout: 60_000 });
  const applied = page.getByRole('region', { name: 'Applied' });
  await expect(applied).toContainText('Wrong', { timeout: 60_000 });
  await questions.getByRole('button', { name: /^take back/ }).click({ timeout: 60_000 });
  await expect(applied).toBeHidden({ timeout: 60_000 });
  await expect(questions).not.toContainText('Wrong');
});

test('a made-up message asks which of two changes is meant for mail to come', async ({ page }) => {
  await begin(page);
  await openQuestion(page, /Booking of the hall/);
  const question = page.getByRole('article', { name: 'Question' });
  await question.press('e');
  await page.getByRole('combobox', { name: 'Folder that this message belongs in' }).fill('Village');
  await page.getByRole('button', { name: 'Choose this folder' }).click();
  await page.getByRole('button', { name: 'Save this answer' }).click();
  const questions = page.getByRole('region', { name: 'Questions' });
  await questions
    .getByRole('link', { name: /^Mail to come/ })
    .first()
    .click({ timeout: 60_000 });
  await expect(question).toContainText('No stored message tells which change you mean');
  await noViolations(page);
  await question.press('2');
  await expect(question).toContainText('kept as a probe');
  await question.getByRole('button', { name: 'Save this answer' }).click();
  await expect(questions.getByRole('button', { name: /^take back: Answer about mail like that/ })).toBeVisible({
    timeout: 60_000,
  });
});

test('two answers that contradict each other are told with both messages', async ({ page }) => {
  await begin(page);
  const question = page.getByRole('article', { name: 'Question' });
  const answer = page.getByRole('region', { name: 'Your answer' });
  const save = answer.getByRole('button', { name: 'Save this answer' });
  await openQuestion(page, /Rota of helpers/);
  await question.getByRole('button', { name: /^\d Rota$/ }).click();
  await save.click();
  await expect(page.getByRole('region', { name: 'Questions' })).toContainText('✓', { timeout: 60_000 });

  await openQuestion(page, /Booking of the hall/);
  await question.getByRole('button', { name: /^\d Bookings$/ }).click();
  await expect(answer).toContainText('8 messages');
  const told = answer.getByRole('alert');
  await expect(told).toBeHidden();
  // For all that the school sends.
  const more = answer.getByRole('button', { name: 'More messages' });
  await expect(async () => {
    if (await told.isHidden()) await more.click();
    await expect(told).toBeVisible({ timeout: 200 });
  }).toPass();
  await expect(told).toContainText('This contradicts an earlier answer');
  await expect(told).toContainText('must end in “Rota”');
  await expect(save).toBeDisabled();
  await noViolations(page);
  await expect(told.getByRole('link', { name: 'that message' })).toHaveAttribute('href', /\/mail\/\d+$/);
  await answer.getByRole('button', { name: 'Fewer messages' }).click();
  await expect(told).toBeHidden();
  await save.click();
  await expect(page.getByRole('region', { name: 'Questions' }).getByRole('button', { name: /^take back/ })).toHaveCount(
    2,
  );
});

test('five hundred rules have a plan: a hundred of them go at once, and a question is answered', async ({ page }) => {
  const rules = Array.from({ length: 400 }, (_, n) => {
    const rule = (name: string) =>
      `# ${name}\nif address :domain :is "from" "d${n}.example" { fileinto "F${n % 40}"; stop; }\n`;
    return n % 4 === 0 ? rule(`Dale ${n}`) + rule(`Dale ${n} again`) : rule(`Dale ${n}`);
  });
  const script = `require "fileinto";\n# Notes\nif header :contains "subject" "notes" { fileinto "Notes"; stop; }\n${rules.join('')}`;
  const mail = Array.from({ length: 8 }, (_, n) => [`F${n}.mbox`, lettersOf(3, `a@d${n}.example`, 'Hello')] as const);
  const notes = ['INBOX.mbox', lettersOf(9, 'a@d5.example', 'Meeting notes')] as const;
  const id = await beginAudit(page, 'Five hundred', [['rules.sieve', script], notes, ...mail]);
  await page.goto(`/audits/${id}/plan`);
  await expect(page.getByRole('heading', { name: /confirmed findings/ })).toBeVisible({ timeout: 90_000 });
  const tidy = page.getByRole('region', { name: 'Tidy' });
  await expect(tidy).toContainText('501 → 401 rules');
  await tidy.getByRole('button', { name: 'Show all 100' }).click();
  await expect(tidy.getByRole('listitem')).toHaveCount(100);
  await tidy.getByRole('button', { name: 'Apply all 100 changes' }).click();
  await expect(page.getByRole('region', { name: 'Applied' }).getByRole('listitem')).toHaveCount(100, {
    timeout: 60_000,
  });
  await openQuestion(page, /Meeting notes/);
  await page
    .getByRole('article', { name: 'Question' })
    .getByRole('button', { name: /^\d F5$/ })
    .click();
  await page.getByRole('button', { name: 'Save this answer' }).click();
  await expect(page.getByRole('region', { name: 'Questions' })).toContainText('must end in “F5”');
  await page.goto('/');
  await page.request.delete(`/api/audits/${id}`);
});
