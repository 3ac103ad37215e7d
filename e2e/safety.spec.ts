import { expect, test } from '@playwright/test';

/** Hostile mail, hostile names and many users at once can do nothing but what is intended. */

const HOSTILE = '<img src="http://evil.example/x.png" onerror="window.hurt=1"><script>window.hurt=1</script>';
const SCRIPT = `require "fileinto";\n# ${HOSTILE}\nif header :contains "subject" "weir" { fileinto "=cmd|' /C calc'!A0"; }\n${Array.from(
  { length: 8 },
  (_, n) => `# Rule ${n}\nif header :contains "subject" "word ${n}" { fileinto "F${n}"; }\n`,
).join('')}`;
const MAIL = `From a@b.example Thu Jan  1 10:00:00 2026\nFrom: "${'<script>window.hurt=1</script>'}" <a@b.example>\nTo: me@mill.example\nSubject: weir ${HOSTILE}\nDate: Thu, 1 Jan 2026 10:00:00 +0000\nMIME-Version: 1.0\nContent-Type: text/html; charset=utf-8\n\n<html><body><iframe src="http://evil.example/"></iframe>${HOSTILE}<a href="javascript:window.hurt=1">words</a></body></html>\n\n`;

test('hostile mail and names stay text, and many hands at once lose nothing', async ({ page, context }) => {
  const foreign: string[] = [];
  context.on('request', (request) => {
    if (!/^https?:\/\/127\.0\.0\.1:|^(data|blob):/.test(request.url())) foreign.push(request.url());
  });
  page.on('dialog', (dialog) => dialog.dismiss().then(() => foreign.push('a dialog')));
  const made = await page.request.post('/api/audits', { data: { name: HOSTILE.slice(0, 200) } });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/audits/${id}/gather`);
  const file = (name: string, text: string) => ({
    name,
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(text),
  });
  await page
    .locator('input[type=file]')
    .setInputFiles([file('<b>rules.sieve', SCRIPT), file('..%2F<img src=x>.mbox', MAIL)]);
  await expect(page.getByText('1 message').first()).toBeVisible();

  for (const path of [
    'chain',
    'mail',
    'mail/0',
    'findings',
    'changes',
    'export',
    'rules',
    'sheet',
    'flows',
    'people',
    'expectations',
  ]) {
    const answer = await page.goto(`/audits/${id}/${path}`);
    const policy = answer?.headers()['content-security-policy'] ?? '';
    expect(policy).toContain("script-src 'self' 'nonce-");
    expect(policy).not.toMatch(/script-src[^;]*'unsafe-(inline|eval)'/);
    await expect(page.locator('main').first()).toBeVisible();
    expect(await page.evaluate(() => 'hurt' in window)).toBe(false);
  }
  await page.goto(`/audits/${id}/mail/0`);
  await expect(page.getByText('onerror="window.hurt=1"').first()).toBeVisible();

  const sheet = await (await page.request.get(`/api/audits/${id}/sheet`)).text();
  expect(sheet).toContain(`'=cmd|' /C calc'!A0`);
  const report = await (await page.request.get(`/api/audits/${id}/report?form=html`)).text();
  expect(report).not.toContain('<script');
  expect(report).not.toContain('<img');

  // Eight at once: each is made, since they concern different rules.
  const off = (n: number) => ({ edits: [{ kind: 'switch', id: `r${n + 2}`, on: false }], why: '' });
  const edits = (data: object) => page.request.post(`/api/audits/${id}/edits`, { data });
  const answers = await Promise.all(Array.from({ length: 8 }, (_, n) => edits(off(n))));
  expect(answers.map((answer) => answer.status())).toEqual(Array(8).fill(200));
  // The same change from two windows: the second one is rejected with a message.
  expect((await edits(off(0))).status()).toBe(409);
  const archive = (await (await page.request.get(`/api/audits/${id}/archive`)).json()) as { changes: unknown[] };
  expect(archive.changes).toHaveLength(8);

  // Two windows change one rule: the second one's text is not lost, and does not undo the first.
  const second = await context.newPage();
  for (const one of [page, second]) await one.goto(`/audits/${id}/rule?rule=r2`);
  await page.getByRole('textbox', { name: 'Name' }).fill('First');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page).toHaveURL(/\/chain#r2$/);
  await second.getByRole('textbox', { name: 'Name' }).fill('Second');
  await expect(second.getByText(/was changed in another window meanwhile/)).toBeVisible();
  await expect(second.getByRole('textbox', { name: 'Name' })).toHaveValue('Second');
  await second.close();

  const back = await page.request.post('/api/archive', { data: archive });
  expect(back.status()).toBe(201);
  expect(foreign).toEqual([]);
});
