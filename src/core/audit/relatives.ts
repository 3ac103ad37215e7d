import type { Bitmap } from '../flow/bitmap';
import type { StoredMessage, Valued } from './stored';

/** The addresses of a set of messages by display name in lower case, of two words at least. */
export function addressesByName(messages: Bitmap, mail: Valued): ReadonlyMap<string, ReadonlySet<string>> {
  const addresses = new Map<string, Set<string>>();
  for (const number of messages.members()) {
    const { senderName, sender } = mail.message(number);
    const name = senderName.toLowerCase();
    if (name.includes(' ') && !name.includes('@')) addresses.set(name, (addresses.get(name) ?? new Set()).add(sender));
  }
  return addresses;
}

/** Whether a message comes by the display name of some message of a set, two words at least, from an address that is not in it. */
export function sameName(messages: Bitmap, mail: Valued): (message: StoredMessage) => boolean {
  const addresses = addressesByName(messages, mail);
  return ({ senderName, sender }) => {
    const known = addresses.get(senderName.toLowerCase());
    return known !== undefined && sender !== '' && !known.has(sender);
  };
}
