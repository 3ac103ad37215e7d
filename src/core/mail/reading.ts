import { decodeWords } from './encodedwords';
import { type MailMessage, partsOf } from './message';
import { parseParameters } from './parameters';
import { decodedBody, fieldValue, isAtDepthLimit, type MimePart, readableText, walkParts } from './parts';

/** The version of the reader; increase it whenever the same octets are read as other fields, flags or texts. */
export const READER = 3;

/** The readable contents of a message: exactly the texts that body tests compare (RFC 5173 section 5.3). */
export interface Reading {
  readonly texts: readonly ReadText[];
  readonly attachments: readonly Attachment[];
  /** Whether some parts are nested too deeply to be read. */
  readonly deep: boolean;
}

export interface ReadText {
  /** The index of its part in the order of `walkParts`. */
  readonly part: number;
  /** In lower case, such as `text/html`. */
  readonly type: string;
  /** Its file name; null if it has none. */
  readonly name: string | null;
  readonly text: string;
  /** An alternative of a text before it (RFC 2046 section 5.1.4). */
  readonly again: boolean;
}

export interface Attachment {
  readonly part: number;
  /** Null where it has none. */
  readonly name: string | null;
  readonly type: string;
  /** Octets, its transfer encoding undone. */
  readonly octets: number;
}

/** Reads the texts and attachments of a message. Never throws. */
export function readingOf(message: MailMessage): Reading {
  const top = partsOf(message);
  const again = secondForms(top);
  const texts: ReadText[] = [];
  const attachments: Attachment[] = [];
  let deep = false;
  for (const [place, part] of [...walkParts(top)].entries()) {
    deep ||= isAtDepthLimit(part);
    const name = fileNameOf(part);
    if (isAttachment(part)) attachments.push({ part: place, name, type: part.type, octets: decodedBody(part).length });
    if (!part.type.startsWith('text/')) continue;
    texts.push({ part: place, type: part.type, name, text: readableText(part), again: again.has(part) });
  }
  return { texts, attachments, deep };
}

/** The parts that are no text to be read with the message: attached (RFC 2183), named, or of another type. */
export function attachmentsOf(message: MailMessage): number {
  let count = 0;
  for (const part of walkParts(partsOf(message))) if (isAttachment(part)) count++;
  return count;
}

function isAttachment(part: MimePart): boolean {
  if (part.type.startsWith('multipart/')) return false;
  if (!part.type.startsWith('text/')) return true;
  const disposition = fieldValue(part.fields, 'content-disposition') ?? '';
  return /^attachment\b/i.test(disposition) || fileNameOf(part) !== null;
}

/** By RFC 2183 section 2.3, else the older parameter of the type; encoded words are read too (common practice). */
function fileNameOf(part: MimePart): string | null {
  const disposition = fieldValue(part.fields, 'content-disposition') ?? '';
  const name = parseParameters(disposition).parameters.get('filename') ?? part.parameters.get('name');
  return name ? decodeWords(name) : null;
}

/** Of each multipart/alternative, the texts behind the first that has one. */
function secondForms(top: MimePart): ReadonlySet<MimePart> {
  const again = new Set<MimePart>();
  for (const part of walkParts(top)) {
    if (part.type !== 'multipart/alternative') continue;
    const forms = part.children.map((child) => [...walkParts(child)].filter(({ type }) => type.startsWith('text/')));
    const [first, ...others] = forms.filter((texts) => texts.some((text) => readableText(text) !== ''));
    if (first) for (const text of others.flat()) again.add(text);
  }
  return again;
}
