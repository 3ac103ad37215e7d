import { type Destination, isDiscarded } from '../../core/fates/destination';
import { INBOX } from '../../core/sieve/interpret/fate';

/** A destination as a button says it: “Inbox and Bills”, “Discarded”. */
export function destinationWords(destination: Destination): string {
  if (isDiscarded(destination)) return 'Discarded';
  const { folders, redirects, rejected } = destination;
  const places = [
    ...folders.map((folder) => (folder === INBOX ? 'Inbox' : folder)),
    ...redirects.map((address) => `redirected to ${address}`),
    ...(rejected ? ['rejected'] : []),
  ];
  return places.join(' and ');
}
