import { expect, type Page } from '@playwright/test';

/** Begins an audit with some files, by name and contents; returns its id. */
export async function beginAudit(
  page: Page,
  name: string,
  files: readonly (readonly [name: string, contents: string])[],
): Promise<string> {
  const { id } = await (await page.request.post('/api/audits', { data: { name } })).json();
  for (const [called, data] of files) {
    const headers = { 'x-file-name': called, 'content-type': 'application/octet-stream' };
    expect((await page.request.post(`/api/audits/${id}/files`, { headers, data })).status()).toBe(201);
  }
  return id;
}

/** A message in an mbox file. */
export const letterOf = (subject: string, fields: readonly string[] = []): string =>
  [
    'From a@b Thu Jan  1 10:00:00 2026',
    'From: yard@oak.example',
    'To: me@home.example',
    'Date: Thu, 1 Jan 2026 10:00:00 +0000',
    'Message-ID: <1@oak.example>',
    ...fields,
    `Subject: ${subject}`,
    '',
    'words',
    '',
    '',
  ].join('\n');
