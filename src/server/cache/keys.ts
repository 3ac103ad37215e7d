import { createHash } from 'node:crypto';
import type { Chain } from '../../core/rules/rule';
import type { Audit } from '../audits/audits';

/**
 * What the keys of cached values are made of: each says all that a value depends on, so that another state of an audit has another
 * key, and nothing has to be forgotten.
 */

/** The mail that is there. */
export const mailKey = ({ id, edition }: Audit): string => `${id} ${edition}`;

/** The columns of all messages by number, whether or not they are there. */
export const columnsKey = ({ id, messageCount, reader }: Audit): string => `${id} ${messageCount} ${reader}`;

/** Whom the mail belongs to, which tells what the user sent. */
export const ownerKey = ({ ownAddresses }: Audit): string => ownAddresses.join(' ');

/** The messages that take part. */
export const trafficKey = (audit: Audit): string =>
  `${mailKey(audit)} ${audit.withSent ? 'all' : JSON.stringify(audit.ownAddresses)}`;

/** What only some tests depend on beside the messages: the clock, and whom messages went to that do not tell. */
export const surroundingsKey = ({ clock, recipient }: Audit): string => JSON.stringify([clock.fixed, recipient]);

/** How the messages that take part run through a chain. */
export const flowKey = (audit: Audit, chain: Chain): string =>
  `${trafficKey(audit)} ${surroundingsKey(audit)} ${chainHash(chain)}`;

/** What is found in a chain: whose mail it is matters, which of it is there, whether sent mail takes part, and the time that rules see. */
export const findingsKey = ({ ownAddresses, clock, withSent, edition }: Audit, chain: Chain): string => {
  const whose = `${chainHash(chain)}:${ownAddresses.join(' ')}${withSent ? ' with sent' : ''} of ${edition}`;
  return [whose, ...(clock.fixed === null ? [] : [clock.fixed])].join('@');
};

const hashes = new WeakMap<Chain, string>();

/** The same for chains that mean the same to the engines and read the same. Chains are never changed in place. */
export function chainHash(chain: Chain): string {
  const known = hashes.get(chain);
  if (known) return known;
  const hash = createHash('sha256').update(JSON.stringify(chain)).digest('hex').slice(0, 32);
  hashes.set(chain, hash);
  return hash;
}
