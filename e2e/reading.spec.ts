import { expect, test } from '@playwright/test';
import { noViolations } from './access';

/** A message's page shows exactly the texts that rules compare, and the chain shows the current date for its rules. */

const RULES = `require ["body", "fileinto", "date", "relational", "imap4flags"];
# Sluice
if body :contains "sluice" { fileinto "Sluice"; }
# Plan
if body :content "text/html" :contains "weir" { addflag "plan"; }
# Last July
if allof (currentdate :value "ge" "date" "2025-07-01", currentdate :value "le" "date" "2025-07-14") { fileinto "July"; }
`;

const MAIL = `From a@x.example Tue Jul  8 10:00:00 2025
Received: from a.example by b.example; Tue, 8 Jul 2025 10:00:00 +0000
From: Ann <a@x.example>
To: me@mill.example
Subject: =?windows-1252?q?=80_5_for_the_=93weir=94?=
Date: Tue, 8 Jul 2025 10:00:00 +0000
MIME-Version: 1.0
Content-Type: multipart/mixed; boundary=b

--b
Content-Type: multipart/alternative; boundary=a

--a
Content-Type: text/plain; charset=utf-8

The gates are shut.
--a
Content-Type: text/html; charset=windows-1252
Content-Transfer-Encoding: quoted-printable

<html><head><style>p { color: red }</style><p>The sluice at the weir costs =80&nbsp;5.</p>
--a--
--b
Content-Type: application/pdf
Content-Disposition: attachment; filename*=utf-8''Sluice%20gr%C3%BCn.pdf
Content-Transfer-Encoding: base64

d2Vpcg==
--b--

From b@x.example Wed Jul  8 10:00:00 2026
From: Ben <b@x.example>
To: me@mill.example
Subject: only HTML
Date: Wed, 8 Jul 2026 10:00:00 +0000
MIME-Version: 1.0
Content-Type: text/html

<body><table><tr><td>one<td>two</table>

`;

test('a message shows its texts with the words that tests met, and what is attached; dated rules run on arrival or on one date', async ({
  page,
}) => {
  const made = await page.request.post('/api/audits', { data: { name: 'Reading' } });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/audits/${id}/gather`);
  const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.locator('input[type=file]').setInputFiles([file('rules.sieve', RULES), file('INBOX.mbox', MAIL)]);
  await expect(page.getByText('2 messages').first()).toBeVisible();

  await page.goto(`/audits/${id}/mail/0`);
  await expect(page.getByRole('heading', { name: '€ 5 for the “weir”' })).toBeVisible();
  await expect(page.getByText('The gates are shut.')).toBeVisible();
  // The alternative is shown, since tests matched words in it.
  const html = page.getByText(/The sluice.* at the weir.* costs €/);
  await expect(html).toBeVisible();
  await expect(html.locator('mark').filter({ hasText: 'sluice' })).toContainText('1');
  await expect(html.locator('mark').filter({ hasText: 'weir' })).toContainText('2');
  await expect(page.getByText('Sluice grün.pdf (application/pdf, 4 bytes)')).toBeVisible();
  await noViolations(page);

  await page.goto(`/audits/${id}/mail/1`);
  await expect(page.getByText('one two')).toBeVisible();

  const ends = () => page.getByRole('definition').filter({ hasText: /July|Inbox/ });
  await expect(ends()).toContainText('Inbox');
  await page.goto(`/audits/${id}/chain`);
  await expect(page.getByText('Date for rules')).toBeVisible();
  await page.getByText('a fixed date', { exact: true }).click();
  await page.getByLabel('The fixed date').fill('2025-07-02');
  await expect(async () => {
    await page.goto(`/audits/${id}/mail/1`);
    await expect(ends()).toContainText('July', { timeout: 500 });
  }).toPass();
  await page.goto(`/audits/${id}/chain`);
  await expect(page.getByLabel('The fixed date')).toHaveValue('2025-07-02');
  await expect(page.getByRole('link', { name: '2', exact: true }).first()).toBeVisible();
  await noViolations(page);
  await page.getByText('day of arrival', { exact: true }).click();
  await expect(page.getByLabel('The fixed date')).toHaveCount(0);
  await expect(async () => {
    await page.goto(`/audits/${id}/mail/1`);
    await expect(ends()).toContainText('Inbox', { timeout: 500 });
  }).toPass();
});
