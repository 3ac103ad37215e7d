import { createHash } from 'node:crypto';
import type { Chain } from '../../core/rules/rule';

const hashes = new WeakMap<Chain, string>();

/** The same for chains that mean the same to the engines and read the same. Chains are never changed in place. */
export function chainHash(chain: Chain): string {
  const known = hashes.get(chain);
  if (known) return known;
  const hash = createHash('sha256').update(JSON.stringify(chain)).digest('hex').slice(0, 32);
  hashes.set(chain, hash);
  return hash;
}
