import { createHash } from 'node:crypto';
import type { Chain } from '../../core/rules/rule';
import type { Audit } from '../audits/audits';

/**
 * Keys of cached values. A key names everything the value depends on, so that another state of an audit has another key
 * and nothing must be invalidated.
 */

/** The messages that are present. */
export const mailKey = ({ id, edition }: Audit): string => `${id} ${edition}`;

/** The columns of all messages by number, present or not. */
export const columnsKey = ({ id, messageCount, reader }: Audit): string => `${id} ${messageCount} ${reader}`;

/** The own addresses, which tell sent mail. */
export const ownerKey = ({ ownAddresses }: Audit): string => ownAddresses.join(' ');

/** The messages that take part. */
export const trafficKey = (audit: Audit): string =>
  `${mailKey(audit)} ${audit.withSent ? 'all' : JSON.stringify(audit.ownAddresses)}`;

/** What some tests depend on besides the messages: the clock, and the recipient of messages that name none. */
export const surroundingsKey = ({ clock, recipient }: Audit): string => JSON.stringify([clock.fixed, recipient]);

/** The flow of the messages that take part through a chain. */
export const flowKey = (audit: Audit, chain: Chain): string =>
  `${trafficKey(audit)} ${surroundingsKey(audit)} ${chainHash(chain)}`;

/** To be increased when audits find or word something else, so that results of earlier versions are not shown. */
const FINDINGS_FORMAT = 4;

/**
 * The findings of a chain: they depend on the own addresses, the present mail, whether sent mail takes part, the kept
 * probes, and the clock.
 */
export const findingsKey = ({ ownAddresses, clock, withSent, edition, probes }: Audit, chain: Chain): string => {
  const own = `${ownAddresses.join(' ')}${withSent ? ' with sent' : ''}`;
  const tried = probes === '' ? '' : ` with probes ${digestOf(probes)}`;
  const whose = `${chainHash(chain)}:${own} of ${edition}${tried} in ${FINDINGS_FORMAT}`;
  return [whose, ...(clock.fixed === null ? [] : [clock.fixed])].join('@');
};

const digestOf = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 32);

const hashes = new WeakMap<Chain, string>();

/** The same key for chains that are equal to the engines and in their wording. Chains are never changed in place. */
export function chainHash(chain: Chain): string {
  const known = hashes.get(chain);
  if (known) return known;
  const hash = digestOf(JSON.stringify(chain));
  hashes.set(chain, hash);
  return hash;
}
