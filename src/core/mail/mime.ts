import PostalMime from 'postal-mime';

/** What a person reads of a message. */
export interface MessageText {
  /** Decoded text; from HTML parts only their words. Empty where there is none. */
  readonly text: string;
  readonly attachments: readonly { readonly name: string | null; readonly type: string; readonly octets: number }[];
  /** Set where the MIME structure could not be read. */
  readonly fault: string | null;
}

/** Octets of a message that are looked at for its text; the rest of a larger one is kept but not read. */
export const READ_LIMIT = 8 * 1024 * 1024;
const NESTING_LIMIT = 64;

/** Reads the text of a message, of whose `whole` octets the first may be all that is at hand. Never rejects: a structure beyond the limits is told in `fault`. */
export async function readText(raw: Uint8Array, whole = raw.length): Promise<MessageText> {
  const cut = whole > READ_LIMIT ? `only the first ${READ_LIMIT / 1024 / 1024} MB were read for its text` : null;
  try {
    const email = await PostalMime.parse(raw.subarray(0, READ_LIMIT), {
      maxNestingDepth: NESTING_LIMIT,
      attachmentEncoding: 'arraybuffer',
    });
    const attachments = email.attachments.map((part) => ({
      name: part.filename,
      type: part.mimeType,
      octets: typeof part.content === 'string' ? part.content.length : part.content.byteLength,
    }));
    return { text: email.text ?? '', attachments, fault: cut };
  } catch (error) {
    return { text: '', attachments: [], fault: error instanceof Error ? error.message : String(error) };
  }
}
