import { createWriteStream } from 'node:fs';
import { mkdir, readFile, rm } from 'node:fs/promises';
import { resolve } from 'node:path';
import { finished } from 'node:stream/promises';
import { expect, type Page, test } from '@playwright/test';
import { fromBuffer } from 'yauzl';

/** A mailbox whose counts are known by arithmetic. */
const COUNT = 100_000;
const WORDS = ['weir', 'oak', 'lime', 'flood', 'beam'];
const START = Date.UTC(2016, 0, 1);
const HOUR = 60 * 60 * 1000;

function letter(n: number): string {
  const date = new Date(START + n * HOUR).toUTCString().replace('GMT', '+0000');
  const rare = n % 25_000 === 7 ? ' zygote' : '';
  return [
    `From a@x.example Thu Jan  1 10:00:00 2026`,
    `From: Sender ${n % 100} <s${n % 100}@d${n % 7}.example>`,
    'To: me@mill.example',
    `Subject: ${WORDS[n % 5]} number ${n}`,
    `Date: ${date}`,
    `Message-ID: <${n}@mill.example>`,
    ...(n % 10 === 9 ? [`In-Reply-To: <${n - 9}@mill.example>`] : []),
    '',
    `The text of ${n}${rare}.`,
    '',
    '',
  ].join('\n');
}

const SCRIPT = `require "fileinto";
# Weir
if header :contains "subject" "weir" { fileinto "Weir"; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
# Sevens
if address :domain :is "from" "d3.example" { fileinto "Sevens"; }
# Rare
if header :contains "subject" "flood" { discard; }
`;

async function writeMailbox(file: string): Promise<void> {
  const out = createWriteStream(file);
  for (let n = 0; n < COUNT; n += 1000) {
    const thousand = Array.from({ length: 1000 }, (_, k) => letter(n + k)).join('');
    if (!out.write(thousand)) await new Promise<void>((done) => out.once('drain', () => done()));
  }
  out.end();
  await finished(out);
}

async function begin(page: Page, name: string): Promise<string> {
  await page.goto('/');
  await page.getByLabel('New audit').fill(name);
  await page.getByRole('button', { name: 'Create audit' }).click();
  await page.waitForURL('**/gather');
  return new URL(page.url()).pathname.replace('/gather', '');
}

const dropFile = (page: Page, name: string, text: string) =>
  page.locator('input[type=file]').setInputFiles([{ name, mimeType: 'text/plain', buffer: Buffer.from(text) }]);

test('an audit of 100,000 messages: scrolled, filtered, opened, reordered, and right throughout', async ({ page }) => {
  test.setTimeout(600_000);
  const folder = resolve('test-results', 'mailbox');
  const file = resolve(folder, 'INBOX.mbox');
  await mkdir(folder, { recursive: true });
  await writeMailbox(file);
  const audit = await begin(page, 'A large mailbox');
  await dropFile(page, 'rules.sieve', SCRIPT);
  await expect(page.getByRole('region', { name: 'Receipts' }).getByText('4 rules.')).toBeVisible();
  await page.getByLabel('Path of a file or folder on this machine').fill(file);
  await page.getByRole('button', { name: 'Import' }).click();
  await expect(page.getByText('100,000 messages').first()).toBeVisible({ timeout: 300_000 });
  await rm(folder, { recursive: true });

  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  await expect(page.getByText('60,000 of 100,000 reach the end of the chain')).toBeVisible({ timeout: 120_000 });

  // Newest first: the last row is the oldest message, reached in one step.
  await page.getByRole('link', { name: 'Mail', exact: true }).click();
  const table = page.getByRole('table', { name: 'Stored messages' });
  await expect(page.getByText('100,000 of 100,000 messages')).toBeVisible();
  await expect(table.getByRole('link', { name: 'beam number 99999', exact: true })).toBeVisible();
  const body = table.getByRole('rowgroup');
  await body.evaluate((element) => element.scrollTo(0, element.scrollHeight));
  await expect(table.getByRole('link', { name: 'weir number 0', exact: true })).toBeVisible();
  for (const part of [0.31, 0.5, 0.77]) {
    await body.evaluate((element, at) => element.scrollTo(0, element.scrollHeight * at), part);
    // No gap: every visible row is filled, and each comes before the next.
    await expect
      .poll(async () => {
        // Read at one moment, since rows come and go while the list settles.
        const texts = await body
          .getByRole('row')
          .evaluateAll((rows) => rows.map((row) => row.querySelector('a')?.textContent ?? ''));
        const numbers = texts.map((text) => Number(/(\d+)$/.exec(text)?.[1]));
        return (
          numbers.length > 15 && numbers.every((number, at) => at === 0 || number === (numbers[at - 1] as number) - 1)
        );
      })
      .toBe(true);
  }

  const count = (found: string) =>
    expect(page.getByText(`${found} of 100,000 messages`, { exact: true })).toBeVisible();
  const filter = async (label: string, words: string) => page.getByLabel(label, { exact: true }).fill(words);
  await filter('words in the subject', 'oak number 4');
  await count('2,222');
  await filter('name or address', 'd3.example');
  await count(String(sum((n) => WORDS[n % 5] === 'oak' && String(n).startsWith('4') && n % 7 === 3)));
  await page.getByRole('button', { name: 'clear filters' }).click();
  await count('100,000');
  await filter('words anywhere in the message', 'zygote');
  await count('4');
  await expect(table.getByRole('link', { name: 'lime number 75007', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'clear filters' }).click();
  await page.goto(`${audit}/mail?since=2016-01-09&until=2016-01-09`);
  const days = page.getByRole('button', { name: 'from one day to another' });
  await days.click();
  await page.getByRole('button', { name: '10 January 2016' }).click();
  await page.getByRole('button', { name: '11 January 2016' }).click();
  await count('48');
  await expect(page).toHaveURL(/since=2016-01-10&until=2016-01-11/);
  await page.getByRole('button', { name: 'clear filters' }).click();
  await page.getByRole('combobox', { name: 'Rule', exact: true }).click();
  await page.getByRole('option', { name: 'no rule acts' }).click();
  await count(sum((n) => n % 5 > 1 && n % 5 !== 3 && n % 7 !== 3).toLocaleString('en-GB'));
  await page.getByRole('button', { name: 'clear filters' }).click();

  // One message: its destination, why it does not reach the inbox, and its conversation.
  await filter('words in the subject', 'number 50029');
  await count('1');
  await table.getByRole('link', { name: 'beam number 50029', exact: true }).click();
  await expect(page.getByRole('link', { name: 'its conversation of 2 messages' })).toBeVisible();
  await page.goto(`${audit}/mail?subject=number+50028`);
  await page.getByRole('link', { name: 'flood number 50028', exact: true }).click();
  await page.getByRole('button', { name: 'Why does this message not reach the inbox?' }).click();
  await expect(page.getByText('This message reaches the inbox if you switch off')).toBeVisible();
  await expect(page.getByText('4 Rare', { exact: true }).first()).toBeVisible();
  const dropped = sum((n) => n % 5 === 3 && n % 7 !== 3);
  await expect(
    page.getByText(`${dropped.toLocaleString('en-GB')} of 100,000 messages would have a different destination`),
  ).toBeVisible();

  // A rule is dragged to the top and gets the mail that matches both.
  await page.getByRole('link', { name: 'Chain', exact: true }).click();
  const rung = (name: RegExp) => page.getByRole('button', { name });
  await rung(/^3\s*Sevens/).click();
  await page.getByRole('group', { name: 'Chain' }).focus();
  await page.keyboard.press('Alt+ArrowUp');
  const moved = sum((n) => n % 5 === 1 && n % 7 === 3);
  await expect(
    page.getByText(`${moved.toLocaleString('en-GB')} of 100,000 messages have a different destination`),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(rung(/^2\s*Sevens/)).toBeVisible();
});

function sum(holds: (n: number) => boolean): number {
  let found = 0;
  for (let n = 0; n < COUNT; n++) if (holds(n)) found++;
  return found;
}

test('files are dropped, their folder is called otherwise, and own addresses are confirmed', async ({ page }) => {
  await begin(page, 'Folders');
  const mail = (subject: string) => `Delivered-To: me@mill.example\nFrom: a@x.example\nSubject: ${subject}\n\nwords\n`;
  const transfer = await page.evaluateHandle(
    (letters) => {
      const data = new DataTransfer();
      for (const [name, text] of letters) data.items.add(new File([text], name));
      return data;
    },
    [['one.eml', mail('one')] as const, ['two.eml', mail('two')] as const],
  );
  await page.locator('body').dispatchEvent('dragenter', { dataTransfer: transfer });
  await page.getByText('Drop here to import').dispatchEvent('drop', { dataTransfer: transfer });
  await expect(page.getByRole('region', { name: 'Receipts' }).getByText('1 message.').first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'rename INBOX' })).toBeVisible();
  await page.getByRole('button', { name: 'rename INBOX' }).click();
  await page.getByLabel('New name of INBOX').fill('Letters');
  await page.getByRole('button', { name: 'Rename' }).click();
  await expect(page.getByRole('button', { name: 'rename Letters' })).toBeVisible();
  await page.getByPlaceholder('another address').fill('me@mill.example');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Confirmed by you.')).toBeVisible();
});

test('rules are looked at through lenses, and drawn to another place', async ({ page }) => {
  await page.goto('/audits/demo/chain');
  const order = page.getByRole('combobox', { name: 'Order of the rules' });
  await order.click();
  await page.getByRole('option', { name: 'by destination' }).click();
  await expect(page.getByRole('group', { name: 'Chain' }).getByRole('button').first()).toContainText('Abroad');
  await order.click();
  await page.getByRole('option', { name: 'by running order' }).click();
  await page.getByLabel('Find in the rules').fill('camera at');
  await page.getByLabel('only these').check();
  await expect(page.getByRole('group', { name: 'Chain' }).getByRole('button')).toHaveCount(1);
  await page.getByLabel('Find in the rules').fill('');
  await page.getByRole('button', { name: /^6\s*Camera at night/ }).click();
  const hand = page.getByRole('complementary', { name: 'Selected rule' });
  await expect(hand.getByText('This rule has never acted on stored mail.')).toBeVisible();
  const grip = page.locator('[data-chosen] span[class*=grip]');
  const target = page.getByRole('button', { name: /^3\s*Weir camera/ });
  const [from, to] = [await grip.boundingBox(), await target.boundingBox()];
  if (!from || !to) throw new Error('the rungs are not in sight');
  await page.mouse.move(from.x + 6, from.y + 20);
  await page.mouse.down();
  await page.mouse.move(to.x + 40, to.y + 30, { steps: 8 });
  await page.mouse.up();
  await expect(
    page.getByLabel('Effect of the change').getByText(/messages have a different destination/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
});

test('where mail goes, whom one writes to, and what would be filed anew', async ({ page }) => {
  await page.goto('/audits/demo/flows');
  await page.getByRole('button', { name: /^Schools \d/ }).click();
  const origins = page.getByRole('region', { name: 'Where the mail of Schools comes from' });
  const all = origins.getByRole('link', { name: /^(\d+) of \1$/ }).first();
  const [count] = ((await all.textContent()) ?? '').split(' ');
  await all.click();
  await expect(page.getByText(`${count} of 4,000 messages`, { exact: true })).toBeVisible();

  await page.goto('/audits/demo/people');
  const first = page.getByRole('group', { name: 'Correspondents' }).getByRole('link').first();
  const address = (await first.textContent()) ?? '';
  await first.click();
  await expect(page).toHaveURL(new RegExp(`person=${encodeURIComponent(address).replaceAll('.', '\\.')}`));
  await expect(page.getByRole('button', { name: 'of one correspondent ×' })).toBeVisible();

  await page.goto('/audits/demo/refile');
  const row = page.getByRole('table', { name: 'What moves where' }).getByRole('row').nth(1);
  const words = (await row.getByRole('link').textContent()) ?? '';
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download as mbox files' }).click(),
  ]);
  const names = await zipNames(await readFile(await saved.path()));
  expect(names).toContain('INBOX.mbox');
  expect(names).toContain('Shop/Orders.mbox');
  await row.getByRole('link').click();
  const [moved = ''] = words.split(' ');
  await expect(page.getByText(`${moved} of 4,000 messages`, { exact: true })).toBeVisible();

  await page.goto('/audits/demo/refile');
  await page.getByRole('combobox', { name: 'To which mail' }).click();
  await page.getByRole('option', { name: 'The inbox alone' }).click();
  await expect(page.getByRole('heading', { name: 'of the inbox' })).toBeVisible();
  const inbox = page
    .getByRole('table', { name: 'Each place before and after' })
    .getByRole('row')
    .filter({ has: page.getByRole('rowheader', { name: 'INBOX', exact: true }) });
  const [was = 0, left = 0, came = 0, is = 0] = (await inbox.getByRole('cell').allTextContents()).map((text) =>
    Number(text.replace(/\D/g, '')),
  );
  expect(was - left + came).toBe(is);
  expect(left).toBeGreaterThan(0);
  await inbox.getByRole('link').nth(1).click();
  await expect(page.getByText(`${left.toLocaleString('en-GB')} of 4,000 messages`, { exact: true })).toBeVisible();
});

function zipNames(file: Buffer): Promise<string[]> {
  return new Promise((done, failed) => {
    fromBuffer(file, (error, archive) => {
      if (error) return failed(error);
      const names: string[] = [];
      archive.on('entry', ({ fileName }: { fileName: string }) => names.push(fileName));
      archive.on('end', () => done(names));
    });
  });
}

test('a made-up message is tried, kept as a standing check, and fails once the chain puts it elsewhere', async ({
  page,
}) => {
  await begin(page, 'Probes');
  await dropFile(
    page,
    'rules.sieve',
    'require "fileinto";\n# Oak\nif header :contains "subject" "oak" { fileinto "Oak"; }\n',
  );
  await expect(page.getByRole('region', { name: 'Receipts' }).getByText('1 rule.')).toBeVisible();
  const audit = new URL(page.url()).pathname.replace('/gather', '');
  await page.goto(`${audit}/probes`);
  const way = page.getByRole('region', { name: 'This message through the chain' });
  await expect(way.getByRole('link', { name: 'Oak' })).toBeVisible();
  await page.getByLabel('Message to try').fill('Subject: lime putty\n\nhello\n');
  await expect(way.getByText('No rule matches.')).toBeVisible();
  await page.getByLabel('Message to try').fill('Subject: OAK\n\n');
  await expect(way.getByText('Subject: “OAK” by “oak”')).toBeVisible();
  await page.getByLabel('Name of the probe').fill('oak comes in');
  await page.getByRole('button', { name: 'Save probe' }).click();
  await expect(page.getByText('1 of 1 probes have the expected destination')).toBeVisible();
  await page.goto(`${audit}/chain`);
  await page.getByRole('switch').click();
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByText('1 of 1 are off')).toBeVisible();
  await page.goto(`${audit}/probes`);
  await expect(page.getByText('Inbox, where Oak is expected')).toBeVisible();
  await page.getByRole('button', { name: 'Remove oak comes in' }).click();
  await expect(page.getByText('No saved probes yet')).toBeVisible();
});

test('a probe that two rules match confirms that their order matters', async ({ page }) => {
  await begin(page, 'Order');
  const rule = (name: string, word: string) =>
    `# ${name}\nif header :contains "subject" "${word}" { fileinto "${name}"; stop; }\n`;
  await dropFile(page, 'rules.sieve', `require "fileinto";\n${rule('Oak', 'oak')}${rule('Beams', 'beam')}`);
  await expect(page.getByRole('region', { name: 'Receipts' }).getByText('2 rules.')).toBeVisible();
  const audit = new URL(page.url()).pathname.replace('/gather', '');
  const conflict = page.getByRole('link', { name: /“Oak” comes before “Beams”/ });
  await page.goto(`${audit}/findings`);
  await expect(page.getByText(/(only finding does not match|findings matches) these filters/)).toBeVisible();
  await expect(conflict).toHaveCount(0);
  await page.goto(`${audit}/probes`);
  await page.getByLabel('Message to try').fill('Subject: A beam of oak from the yard\n\nhello\n');
  await page.getByLabel('Name of the probe').fill('both');
  await page.getByRole('button', { name: 'Save probe' }).click();
  await expect(page.getByText('1 of 1 probes have the expected destination')).toBeVisible();
  await page.goto(`${audit}/findings`);
  await conflict.click();
  const way = page.getByRole('region', { name: 'One message through the chain' });
  await expect(way.getByRole('heading', { name: 'A probe that you keep through the chain' })).toBeVisible();
  await expect(way.getByText('A beam of oak from the yard')).toBeVisible();
});
