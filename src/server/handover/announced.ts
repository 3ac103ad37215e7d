import { eq } from 'drizzle-orm';
import type { Capabilities } from '../../managesieve/client';
import { announcements } from '../database/mailbox-schema';
import type { Store } from '../database/open';

/** What the last server that an audit was connected to can do with scripts. */
export interface Announced {
  readonly host: string;
  /** Sieve capabilities, as `require` names them (RFC 5228 section 3.2). */
  readonly capabilities: readonly string[];
  /** Redirects of one message; null if the server does not tell. */
  readonly maxRedirects: number | null;
  readonly createdAt: number;
}

/** Limits on the capabilities of a target, and so on what is remembered of a server. */
export const MOST = { capabilities: 500, length: 200 };

/** Whether a server's capabilities are few and short enough to be remembered. */
export const isModest = ({ sieve }: Pick<Capabilities, 'sieve'>): boolean =>
  sieve.length <= MOST.capabilities && sieve.every((name) => name.length <= MOST.length);

/** Remembers what a server announced (RFC 5804 section 1.7); not if it announces beyond measure. */
export function keepAnnounced(
  store: Store,
  auditId: string,
  host: string,
  announced: Pick<Capabilities, 'sieve' | 'maxRedirects'>,
): void {
  if (!isModest(announced)) return;
  const { sieve: capabilities, maxRedirects } = announced;
  const row = { auditId, host, capabilities, maxRedirects, createdAt: Date.now() };
  store.insert(announcements).values(row).onConflictDoUpdate({ target: announcements.auditId, set: row }).run();
}

export function maybeAnnounced(store: Store, auditId: string): Announced | null {
  const row = store.select().from(announcements).where(eq(announcements.auditId, auditId)).get();
  if (!row) return null;
  const { auditId: _, ...announced } = row;
  return announced;
}
