import { and, eq } from 'drizzle-orm';
import type { ServerAddress } from '../../net/line';
import { fetchedMessages, mailServers, trustedCertificates } from '../database/mailbox-schema';
import { inTransaction, type Store } from '../database/open';

/** The mail server that an audit remembers, with what to fetch from it. */
export type MailServer = Omit<typeof mailServers.$inferSelect, 'auditId'>;

export function maybeMailServer(store: Store, auditId: string): MailServer | null {
  const row = store.select().from(mailServers).where(eq(mailServers.auditId, auditId)).get();
  if (!row) return null;
  const { auditId: _, ...server } = row;
  return server;
}

/** UIDs of another mailbox mean nothing in this one: messages from there stay, as if they came from a file. */
export function keepMailServer(store: Store, auditId: string, server: Omit<MailServer, 'renamed'>): void {
  const before = maybeMailServer(store, auditId);
  const isOther = before?.host !== server.host || before.user !== server.user;
  const row = { auditId, ...server, ...(isOther && { renamed: {} }) };
  inTransaction(store, (tx) => {
    if (isOther) forgetUids(tx, auditId);
    tx.insert(mailServers).values(row).onConflictDoUpdate({ target: mailServers.auditId, set: row }).run();
  });
}

const forgetUids = (tx: Store, auditId: string) =>
  tx.delete(fetchedMessages).where(eq(fetchedMessages.auditId, auditId)).run();

/** Its mail stays. */
export function forgetMailServer(store: Store, auditId: string): void {
  store.delete(mailServers).where(eq(mailServers.auditId, auditId)).run();
}

/** Where mail comes from, for people. */
export const mailboxName = ({ user, host }: Pick<MailServer, 'user' | 'host'>): string => `${user} on ${host}`;

type Place = Pick<ServerAddress, 'host' | 'port'>;

const placed = (auditId: string, { host, port }: Place) =>
  and(
    eq(trustedCertificates.auditId, auditId),
    eq(trustedCertificates.host, host.toLowerCase()),
    eq(trustedCertificates.port, port),
  );

/** The fingerprint that the user has compared, for servers whose certificate no authority vouches for. */
export const maybeTrusted = (store: Store, auditId: string, place: Place): string | null =>
  store.select().from(trustedCertificates).where(placed(auditId, place)).get()?.fingerprint ?? null;

/** Remembers a fingerprint for this audit; null changes nothing. */
export function keepTrusted(store: Store, auditId: string, { host, port }: Place, fingerprint: string | null): void {
  if (fingerprint === null) return;
  const row = { auditId, host: host.toLowerCase(), port, fingerprint, createdAt: Date.now() };
  const { auditId: audit, host: name, port: number } = trustedCertificates;
  store
    .insert(trustedCertificates)
    .values(row)
    .onConflictDoUpdate({ target: [audit, name, number], set: row })
    .run();
}

export interface TrustedCertificate {
  readonly host: string;
  readonly port: number;
  readonly fingerprint: string;
  readonly createdAt: number;
}

export const listTrusted = (store: Store, auditId: string): TrustedCertificate[] =>
  store
    .select()
    .from(trustedCertificates)
    .where(eq(trustedCertificates.auditId, auditId))
    .all()
    .map(({ host, port, fingerprint, createdAt }) => ({ host, port, fingerprint, createdAt }));

export function dropTrusted(store: Store, auditId: string, place: Place): void {
  store.delete(trustedCertificates).where(placed(auditId, place)).run();
}
