import { and, isNotNull } from 'drizzle-orm';
import { Bitmap } from '../../core/flow/bitmap';
import { canonicalFolder } from '../../core/sieve/interpret/fate';
import type { Audit } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { counted, messageNumbersBy } from './message-numbers';

const known = new Region<ReadonlyMap<string, Bitmap>>({
  name: 'messages of folders',
  most: 64 * 1024 * 1024,
  weigh: (folders) => [...folders.values()].reduce((sum, { octets }) => sum + octets, 0),
});

/** The stored messages of each folder, by its canonical name; a message may be in several. */
export function messagesByFolder(store: Store, audit: Audit): ReadonlyMap<string, Bitmap> {
  const key = `${mailKey(audit)} ${audit.messageCount}`;
  const before = known.get(key);
  if (before) return before;
  const folders = new Map<string, Bitmap>();
  for (const [folder, numbers] of messageNumbersBy(store, audit, messages.folder)) {
    const name = canonicalFolder(folder);
    const own = Bitmap.of(audit.messageCount, numbers);
    folders.set(name, folders.get(name)?.or(own) ?? own);
  }
  // Messages that a header field puts in several places.
  const several =
    audit.placeField === null
      ? []
      : store
          .select({ number: messages.number, places: messages.places })
          .from(messages)
          .where(and(counted(audit), isNotNull(messages.places)))
          .all();
  for (const { number, places } of several) {
    for (const place of places ?? []) {
      const name = canonicalFolder(place);
      const held = folders.get(name) ?? new Bitmap(audit.messageCount);
      held.add(number);
      folders.set(name, held);
    }
  }
  known.set(key, folders);
  return folders;
}
