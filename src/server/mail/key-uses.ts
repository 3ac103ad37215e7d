import { Bitmap } from '../../core/flow/bitmap';
import { type KeyUse, keyUses } from '../../core/flow/key-uses';
import type { Audit } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { StoredColumns } from './columns';

const known = new Region<KeyUse>({
  name: 'keys within words',
  most: 32 * 1024 * 1024,
  weigh: ({ inside, words }) => inside.octets + 400 * words.size,
});

/**
 * How keys stand in the texts of the stored mail. All messages are looked at, so that the answer is kept for other rules
 * and edits. `checkpoint` may throw to cancel.
 */
export function storedKeyUses(
  store: Store,
  audit: Audit,
  keys: readonly string[],
  checkpoint: () => void,
): Map<string, KeyUse> {
  const nameOf = (key: string) => `${mailKey(audit)} ${audit.messageCount} ${key}`;
  const uses = new Map(
    keys.flatMap((key) => {
      const before = known.get(nameOf(key));
      return before ? [[key, before] as const] : [];
    }),
  );
  const all = Bitmap.full(audit.messageCount);
  const missing = new Map(keys.flatMap((key) => (uses.has(key) ? [] : [[key, all] as const])));
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  for (const [key, use] of keyUses(missing, columns, checkpoint)) {
    known.set(nameOf(key), use);
    uses.set(key, use);
  }
  return uses;
}
