import type { Flow } from '../flow/flow';

/** Rules that match stored mail and act on none of it. */
export const silencedIn = ({ entries }: Flow): ReadonlySet<string> =>
  new Set(entries.flatMap(({ entry, held, fired }) => (fired.isEmpty() && !held.isEmpty() ? entry.id : [])));
