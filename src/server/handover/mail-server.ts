import { type Capabilities, ManageSieve, type ScriptName, ServerRefusal } from '../../managesieve/client';
import { CertificateFault, ConnectionFault, type ServerAddress } from '../../net/line';
import { Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { importFile } from '../gather/import-file';
import type { RulesReader } from '../gather/rules-file';
import type { JobRequest } from '../jobs/job';
import { keepTrusted, maybeTrusted } from '../mailbox/servers';
import { isModest, keepAnnounced, MOST } from './announced';
import { dryRun, isTargetOf, type ScriptForServer } from './dry-run';
import { standingOfScript, verifiedScript } from './export-view';
import { handoverSettings, keepHanded, keepHandoverSettings } from './handover';

/** Sign-in details for one connection; they are never stored. */
export interface Login extends ServerAddress {
  readonly user: string;
  readonly password: string;
}

/** A request to a server. */
export type ServerRequest =
  | { readonly ask: 'look' }
  /** Brings scripts into the audit, in this order. */
  | { readonly ask: 'fetch'; readonly names: readonly string[] }
  /** Takes what the server has as the target of the script. */
  | { readonly ask: 'target' }
  /** Puts the verified script there under a new name; nothing becomes active by it. */
  | { readonly ask: 'put'; readonly name: string }
  /** Makes a script the one that runs; none where the name is empty. */
  | { readonly ask: 'activate'; readonly name: string };

export interface ServerView {
  readonly capabilities: Capabilities;
  /** Whether the script is written for exactly what this server announces. */
  readonly isTarget: boolean;
  readonly script: ScriptForServer;
  readonly scripts: readonly ScriptName[];
  /** What was done, in plain words; empty if the server was only looked at. */
  readonly done: string;
  /** The script that was active before, if another one was activated. */
  readonly before: string | null;
  /** The script that was uploaded by this request. */
  readonly uploaded: string | null;
}

/** A certificate that the user must check before anything is sent. */
export interface Untrusted {
  readonly untrusted: { readonly reason: string; readonly fingerprint: string; readonly subject: string };
}

export const untrusted = ({ reason, fingerprint, subject }: CertificateFault): Untrusted => ({
  untrusted: { reason, fingerprint, subject },
});

interface JobStarter {
  start(auditId: string, request: JobRequest): string;
}

/**
 * Connects to a server and performs one request. Throws a refusal, in plain words or the server's own, if it fails.
 * `reader` reads the scripts it sends, which may be crafted to take long.
 */
export async function askServer(
  store: Store,
  runner: JobStarter,
  auditId: string,
  login: Login,
  request: ServerRequest,
  reader?: RulesReader,
): Promise<ServerView | Untrusted> {
  // If the script cannot be exported, the server is not contacted at all.
  const script = request.ask === 'put' ? verifiedScript(store, auditId) : '';
  const trusted = login.trusted ?? maybeTrusted(store, auditId, login);
  let client: ManageSieve;
  try {
    client = await ManageSieve.connect({ ...login, trusted });
  } catch (error) {
    if (error instanceof CertificateFault) return untrusted(error);
    throw refusalOf(error);
  }
  try {
    await client.authenticate(login.user, login.password);
    keepTrusted(store, auditId, login, login.trusted);
    keepAnnounced(store, auditId, login.host, client.capabilities);
    const done = await perform(store, runner, auditId, login, client, request, script, reader);
    const scripts = await client.list();
    const checked = await dryRun(standingOfScript(store, auditId), client);
    const { capabilities } = client;
    const isTarget = isTargetOf(handoverSettings(store, auditId), capabilities);
    await client.logout();
    return { capabilities, isTarget, script: checked, scripts, ...done };
  } catch (error) {
    throw refusalOf(error);
  } finally {
    client.close();
  }
}

type Done = Pick<ServerView, 'done' | 'before' | 'uploaded'>;

async function perform(
  store: Store,
  runner: JobStarter,
  auditId: string,
  { host }: Login,
  client: ManageSieve,
  request: ServerRequest,
  script: string,
  reader: RulesReader | undefined,
): Promise<Done> {
  switch (request.ask) {
    case 'look':
      return { done: '', before: null, uploaded: null };
    case 'fetch':
      return {
        done: await fetchScripts(store, runner, auditId, client, request.names, reader),
        before: null,
        uploaded: null,
      };
    case 'target': {
      const { sieve, maxRedirects } = client.capabilities;
      if (!isModest(client.capabilities)) {
        throw new Refusal(
          `The server announces more than ${MOST.capabilities} capabilities, or one longer than ${MOST.length} characters.`,
          422,
        );
      }
      const limits = { ...handoverSettings(store, auditId).limits, redirects: maxRedirects };
      keepHandoverSettings(store, auditId, { target: 'own', capabilities: sieve, limits });
      return { done: 'The script is now written for this server.', before: null, uploaded: null };
    }
    case 'put': {
      const { name } = request;
      if ((await client.list()).some((one) => one.name === name)) {
        throw new Refusal(
          `The server already has a script “${name}”, which was not changed. Choose another name.`,
          409,
        );
      }
      await client.haveSpace(name, Buffer.byteLength(script, 'utf8'));
      const warnings = await client.put(name, script);
      if ((await client.get(name)) !== script) {
        throw new Refusal(
          `The server stored “${name}” differently than it was sent. The active script was not changed.`,
          409,
        );
      }
      keepHanded(store, auditId, `${host}, as “${name}”`, script);
      const said = warnings === '' ? '' : ` Warning from the server: ${warnings}`;
      return {
        done: `The script is uploaded as “${name}”. It is not active yet.${said}`,
        before: null,
        uploaded: name,
      };
    }
    case 'activate': {
      const before = (await client.list()).find(({ active }) => active)?.name ?? null;
      await client.activate(request.name);
      const done = request.name === '' ? 'No script is active now.' : `“${request.name}” is active now.`;
      return { done, before, uploaded: null };
    }
    default:
      request satisfies never;
      throw new Error('unknown request');
  }
}

/** Imports scripts of the server as rules; tells what was done. */
export async function fetchScripts(
  store: Store,
  runner: JobStarter,
  auditId: string,
  client: ManageSieve,
  names: readonly string[],
  reader: RulesReader | undefined,
): Promise<string> {
  const texts: { readonly name: string; readonly text: string }[] = [];
  // All of them, before any is imported.
  for (const name of names) texts.push({ name, text: await client.get(name) });
  const statements: string[] = [];
  const refused: string[] = [];
  for (const { name, text } of texts) {
    try {
      const settings = reader ? { reader } : {};
      const brought = await importFile(store, runner, auditId, `${name}.sieve`, octetsOf(text), settings);
      statements.push(brought.statement);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      refused.push(error.message);
    }
  }
  if (statements.length === 0) throw new Refusal(refused.join(' '), 422);
  return [...statements, ...refused].join(' ');
}

async function* octetsOf(text: string): AsyncGenerator<Uint8Array> {
  yield Buffer.from(text, 'utf8');
}

/** In plain words, with the server's own if it sent any. */
export function refusalOf(error: unknown): unknown {
  if (error instanceof ServerRefusal) {
    const said = error.referral ? error.message : `The server answered: ${error.message}`;
    return new Refusal(error.code ? `${said} (${error.code})` : said, 422);
  }
  return error instanceof ConnectionFault ? new Refusal(error.message, 422) : error;
}
