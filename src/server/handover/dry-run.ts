import { lacking, NO_LIMITS } from '../../core/handover/target';
import { type Capabilities, type ManageSieve, ServerRefusal } from '../../managesieve/client';
import type { Standing } from './export-view';
import type { HandoverSettings } from './handover';

/** What a server says of the script, if it may leave. */
export type ScriptForServer =
  | { readonly is: 'not verified' | 'held back'; readonly why: string }
  /** The server accepts it, with warnings or an empty text; nothing was stored there. */
  | { readonly is: 'accepted'; readonly answer: string }
  /** The server's own words, and what the script requires and the server does not announce. */
  | { readonly is: 'rejected'; readonly answer: string; readonly lacks: readonly string[] }
  /** Servers from before RFC 5804 cannot check a script without storing it. */
  | { readonly is: 'not checkable' };

/** Asks the server whether it would accept the script (CHECKSCRIPT, RFC 5804 section 2.12); nothing is stored there. */
export async function dryRun(
  standing: Standing,
  client: Pick<ManageSieve, 'capabilities' | 'check'>,
): Promise<ScriptForServer> {
  if (standing.is !== 'ready') return standing;
  // A server with CHECKSCRIPT announces its version (RFC 5804 section 1.7).
  if (client.capabilities.version === null) return { is: 'not checkable' };
  try {
    return { is: 'accepted', answer: await client.check(standing.text) };
  } catch (error) {
    if (!(error instanceof ServerRefusal) || error.answer === 'BYE') throw error;
    const target = { id: 'own' as const, capabilities: client.capabilities.sieve, limits: NO_LIMITS };
    return { is: 'rejected', answer: error.message, lacks: lacking(target, standing.requires) };
  }
}

/** Whether a script is written for exactly what a server announces. */
export const isTargetOf = (
  { target, capabilities, limits }: HandoverSettings,
  { sieve, maxRedirects }: Capabilities,
): boolean =>
  target === 'own' && limits.redirects === maxRedirects && [...capabilities].sort().join() === [...sieve].sort().join();
