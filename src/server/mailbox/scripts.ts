import { and, eq } from 'drizzle-orm';
import { ManageSieve, type ScriptName, ServerRefusal } from '../../managesieve/client';
import { CertificateFault, ConnectionFault, type ServerAddress } from '../../net/line';
import type { Store } from '../database/open';
import { scripts } from '../database/schema';
import { listHanded, scriptHash } from '../handover/handover';

/** What is known of the script in use on a server. */
export type ScriptInUse =
  | { readonly found: 'none' }
  | { readonly found: 'script'; readonly name: string; readonly hash: string }
  /** It could not be asked for, and why, in plain words. */
  | { readonly found: 'nothing'; readonly why: string };

/** The scripts of a server. */
export interface ScriptsThere {
  readonly names: readonly ScriptName[];
  readonly inUse: ScriptInUse;
}

/**
 * Connects to the ManageSieve server beside a mailbox, and looks at its scripts; `work` may do more with the connection. What
 * fails is told, since mail can be fetched all the same.
 */
export async function lookAtScripts(
  address: ServerAddress,
  { user, password }: { readonly user: string; readonly password: string },
  work: (client: ManageSieve) => Promise<void> = async () => {},
): Promise<ScriptsThere> {
  let client: ManageSieve | null = null;
  try {
    client = await ManageSieve.connect(address);
    await client.authenticate(user, password);
    const names = await client.list();
    await work(client);
    const active = names.find((one) => one.active);
    const inUse: ScriptInUse = active
      ? { found: 'script', name: active.name, hash: scriptHash(await client.get(active.name)) }
      : { found: 'none' };
    await client.logout();
    return { names, inUse };
  } catch (error) {
    return { names: [], inUse: { found: 'nothing', why: reasonFor(error) } };
  } finally {
    client?.close();
  }
}

function reasonFor(error: unknown): string {
  if (error instanceof ServerRefusal) return `The server answered: ${error.message}`;
  if (error instanceof ConnectionFault || error instanceof CertificateFault) return error.message;
  throw error;
}

/** How the script in use relates to what is known of it here. */
export type ScriptStanding =
  /** It is what was uploaded from here. */
  | { readonly is: 'uploaded'; readonly at: number }
  /** Another one was uploaded from here last. */
  | { readonly is: 'another than uploaded'; readonly at: number }
  /** Nothing was uploaded, and it is an imported one, word for word. */
  | { readonly is: 'imported'; readonly fileName: string }
  | { readonly is: 'unknown' };

export function standingOf(store: Store, auditId: string, host: string, hash: string): ScriptStanding {
  const uploads = listHanded(store, auditId).filter(({ place }) => place.startsWith(`${host}, as “`));
  const same = uploads.find((one) => one.hash === hash);
  if (same) return { is: 'uploaded', at: same.createdAt };
  const [last] = uploads;
  if (last) return { is: 'another than uploaded', at: last.createdAt };
  const imported = store
    .select({ fileName: scripts.fileName })
    .from(scripts)
    .where(and(eq(scripts.auditId, auditId), eq(scripts.digest, hash)))
    .get();
  return imported ? { is: 'imported', fileName: imported.fileName } : { is: 'unknown' };
}
