import { open } from 'node:fs/promises';
import { isXml } from '../../core/sieve/script-text';
import { isChainDocument } from '../../files/chain-document';
import { fileKind } from '../../files/mail/formats';
import { RULES_FORMS } from '../../files/rules/forms';
import { isToldText } from '../../files/rules/sentences';
import { Refusal } from '../audits/audits';
import { isSheetName } from './rules-file';

/** A larger file is not a script. */
const SCRIPT_LIMIT = 4 * 1024 * 1024;

/** Octets read to tell the kind of a file. */
const LOOK = 64 * 1024;

/** `perhaps`: rules if the whole file can be read as such. */
export type Taken = 'script' | 'mail' | 'perhaps';

/** The kind of a file of the given size. Throws a refusal with its reason for a file that is neither rules nor mail. */
export async function kindOf(file: string, fileName: string, bytes: number): Promise<Taken> {
  const head = await readHead(file);
  const text = head.toString('latin1');
  if (fileKind(head) === 'document') {
    if (isChainDocument(text)) return 'script';
    const whole = 'drop it on the first page to open it as its own audit';
    throw new Refusal(
      `“${fileName}” ${text.includes('"ysomeris-audit"') ? `is an exported audit: ${whole}` : 'is JSON of another kind, neither rules nor mail'}.`,
      422,
    );
  }
  if (/^[\r\n]*From /.test(text) || fileKind(head) !== 'mail') return 'mail';
  for (const [kind, marks] of OTHER_FILES) {
    if (marks.some((mark) => text.startsWith(mark)))
      throw new Refusal(`“${fileName}” is ${kind}, neither rules nor mail. Nothing was imported.`, 422);
  }
  if (isSheetName(fileName)) {
    if (bytes > SCRIPT_LIMIT)
      throw new Refusal(`“${fileName}” is too large for a sheet of rules. Nothing was imported.`, 413);
    return 'script';
  }
  // Names before colons look like header fields.
  if (RULES_FORMS.sentences.is(fileName, text) && bytes <= SCRIPT_LIMIT && isToldText(head.toString())) return 'script';
  const named = /\.(sieve|siv|sv)$/i.test(fileName);
  const mailNamed = /\.(mbox|mbx|eml)$/i.test(fileName);
  if (named && bytes > SCRIPT_LIMIT)
    throw new Refusal(`“${fileName}” is too large for a Sieve script. Nothing was imported.`, 413);
  if (named) return 'script';
  if (bytes <= SCRIPT_LIMIT && isXml(text)) return 'script';
  if (mailNamed || /\nFrom [^\n]*\d{4}\r?\n/.test(text) || /^[!-9;-~]+:[^\n]*\r?\n([!-9;-~]+:|[ \t])/.test(text))
    return 'mail';
  if (bytes <= SCRIPT_LIMIT && !text.includes('\0')) return 'perhaps';
  throw neither(fileName);
}

export const neither = (fileName: string): Refusal =>
  new Refusal(`“${fileName}” is neither rules nor mail in a supported format. Nothing was imported.`, 422);

/** The first octets of files that people drop by mistake, one character for each octet. */
const OTHER_FILES: readonly (readonly [string, readonly string[]])[] = [
  ['a PDF document', ['%PDF-']],
  ['a PNG picture', ['\u0089PNG']],
  ['a JPEG picture', ['\u00ff\u00d8\u00ff']],
  ['an SQLite database', ['SQLite format 3']],
  ['a program', ['\u007fELF', 'MZ\u0090']],
];

async function readHead(file: string): Promise<Buffer> {
  const handle = await open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(LOOK), 0, LOOK, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
