import { domainOf } from '../mail/address';
import { joined, quoted } from '../rules/words';
import { canonicalAddress, canonicalFolder, compareText, type Fate, INBOX } from '../sieve/interpret/fate';

/** Where a message ends, whatever flags it has there: folders and redirects, each sorted; INBOX for keep. */
export interface Destination {
  readonly folders: readonly string[];
  readonly redirects: readonly string[];
  readonly rejected: boolean;
}

export const destinationOf = ({ deliveries, redirects, rejected }: Fate): Destination => ({
  folders: deliveries.map(({ folder }) => folder).sort(compareText),
  redirects: [...redirects].sort(compareText),
  rejected,
});

/** Each place once, as fates name it. */
export const canonicalDestination = ({ folders, redirects, rejected }: Destination): Destination => ({
  folders: [...new Set(folders.map(canonicalFolder))].sort(compareText),
  redirects: [...new Set(redirects.map(canonicalAddress))].sort(compareText),
  rejected,
});

/** Equal for equal destinations. */
export const destinationKey = ({ folders, redirects, rejected }: Destination): string =>
  JSON.stringify([folders, redirects, rejected]);

/** Whether nothing is delivered, redirected or rejected. */
export const isDiscarded = ({ folders, redirects, rejected }: Destination): boolean =>
  folders.length === 0 && redirects.length === 0 && !rejected;

/** What happens to mail with this destination, as a verb: “end in “Bills””, “be discarded”. */
export function destinationVerb(destination: Destination): string {
  if (isDiscarded(destination)) return 'be discarded';
  const { folders, redirects, rejected } = destination;
  const places = folders.map((folder) => (folder === INBOX ? 'the inbox' : quoted(folder)));
  const verbs = [
    ...(places.length > 0 ? [`end in ${joined(places, 'and')}`] : []),
    ...(redirects.length > 0 ? [`be redirected to ${joined(redirects, 'and')}`] : []),
    ...(rejected ? ['be rejected'] : []),
  ];
  return joined(verbs, 'and');
}

/** What a change of destination does that the user may not want, gravest first; null for none of it. */
export type Harm = 'lost' | 'leaked' | 'copied' | 'hidden';

/**
 * Mail without a copy anymore, mail that leaves for another address without a copy, mail of which a copy leaves for another
 * domain than the user's own, mail that is taken out of the inbox.
 */
export function harmOf(before: Destination, after: Destination, ownDomains: ReadonlySet<string>): Harm | null {
  if (before.folders.length > 0 && after.folders.length === 0) return 'lost';
  const sent = newRedirects(before, after);
  if (sent.length > 0 && after.folders.length === 0) return 'leaked';
  if (sent.some((address) => !ownDomains.has(domainOf(address)))) return 'copied';
  return before.folders.includes(INBOX) && !after.folders.includes(INBOX) ? 'hidden' : null;
}

/** Addresses that get a message which did not get it before. */
export const newRedirects = (before: Destination, after: Destination): readonly string[] =>
  after.redirects.filter((address) => !before.redirects.includes(address));

/** The destination that a fate written by `fateKey` has. */
export function destinationOfKey(key: string): Destination {
  const [deliveries, redirects, refusal] = JSON.parse(key) as [readonly (readonly string[])[], string[], string | null];
  return { folders: deliveries.map(([folder]) => folder ?? ''), redirects, rejected: refusal !== null };
}
