import { z } from 'zod';
import { isChainDocument } from '../../files/chain-document';
import { call, readAnswer, sendFile } from '../common/api';

const created = z.object({ id: z.string() });

/** Creates an empty audit. */
export async function createAudit(name: string): Promise<string> {
  return created.parse(await call('/api/audits', 'POST', { name })).id;
}

/**
 * Files begin an audit, in their order, named after the first of them where it has no name yet; audits that were downloaded
 * are opened as they were. Returns the path of the next view, or null when no file could be read; nothing is stored then.
 */
export async function beginWith(
  files: readonly File[],
  name: string,
  tell: { readonly sending: (fileName: string) => void; readonly refused: (words: string) => void },
): Promise<string | null> {
  let next: string | null = null;
  const parts: File[] = [];
  for (const file of files) {
    if (!(await isArchive(file))) {
      parts.push(file);
      continue;
    }
    tell.sending(file.name);
    try {
      const answer = await fetch('/api/archive', { method: 'POST', body: file });
      next = `/audits/${created.parse(await readAnswer(answer)).id}/chain`;
    } catch (error) {
      tell.refused(`“${file.name}”: ${error instanceof Error ? error.message : error}`);
    }
  }
  const [first] = parts;
  if (!first) return next;
  const id = await createAudit((name || first.name.replace(/\.[^.]*$/, '') || first.name).slice(0, 200));
  let taken = false;
  for (const file of parts) {
    tell.sending(file.name);
    const { text, failed } = await sendFile(id, file);
    if (failed) tell.refused(text);
    else taken = true;
  }
  if (taken) return `/audits/${id}/gather`;
  await call(`/api/audits/${id}`, 'DELETE');
  return next;
}

/** Octets needed to distinguish rules in JSON from an exported audit. */
const LOOK = 4096;

const isArchive = async (file: File): Promise<boolean> =>
  /\.json$/i.test(file.name) && !isChainDocument(await file.slice(0, LOOK).text());
