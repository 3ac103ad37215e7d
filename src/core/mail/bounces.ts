import { addressText, parseAddressList } from './address';
import { type MailMessage, partsOf } from './message';
import { decodedText, walkParts } from './parts';

/**
 * The addresses that a delivery status notification reports as failed (RFC 3464 sections 2.1 and 2.3), in lower case;
 * none for any other message.
 */
export function failedRecipients(message: MailMessage): string[] {
  const whole = partsOf(message);
  // RFC 6522 section 3.
  if (whole.type !== 'multipart/report') return [];
  const found = new Set<string>();
  for (const { type, ...part } of walkParts(whole)) {
    if (type !== 'message/delivery-status') continue;
    // Fields about the message come first, then those of each recipient, each group after an empty line.
    for (const group of decodedText({ type, ...part }).split(/(?:\r?\n[ \t]*){2,}/)) {
      const field = (name: string) => new RegExp(`^${name}[ \\t]*:[ \\t]*(.*)$`, 'im').exec(group)?.[1]?.trim() ?? '';
      if (!/^failed\b/i.test(field('Action'))) continue;
      for (const name of ['Final-Recipient', 'Original-Recipient']) {
        const address = /^rfc822[ \t]*;[ \t]*(.+)$/i.exec(field(name))?.[1];
        const [read] = address === undefined ? [] : parseAddressList(address);
        if (read) found.add(addressText(read).toLowerCase());
      }
    }
  }
  return [...found];
}
