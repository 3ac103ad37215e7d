import { randomUUID } from 'node:crypto';
import { and, eq, isNotNull } from 'drizzle-orm';
import { type FolderUse, maybeUseSaid } from '../../core/mail/places';
import { type ImapFolder, ImapMail, isView } from '../../imap/mailbox';
import type { ScriptName } from '../../managesieve/client';
import { CertificateFault, ConnectionFault, type ServerAddress } from '../../net/line';
import { getAudit, Refusal } from '../audits/audits';
import { inTransaction, type Store } from '../database/open';
import { audits, sources } from '../database/schema';
import { countAnew } from '../gather/folders';
import { keepSource } from '../gather/mail-sources';
import type { RulesReader } from '../gather/rules-file';
import { keepAnnounced } from '../handover/announced';
import { fetchScripts, type Untrusted, untrusted } from '../handover/mail-server';
import type { JobRequest } from '../jobs/job';
import { beginLook } from './looks';
import { lookAtScripts, type ScriptsThere } from './scripts';
import { keepMailServer, keepTrusted, mailboxName, maybeMailServer, maybeTrusted } from './servers';

/** How to sign in to a mailbox; the password is never stored. */
export interface MailboxLogin extends ServerAddress {
  readonly user: string;
  readonly password: string;
  /** The port of ManageSieve on the same host; null to leave scripts out. */
  readonly sievePort: number | null;
}

export type MailboxRequest =
  /** What is there; counted from a day on if one is given, in milliseconds since 1970. */
  | { readonly ask: 'look'; readonly since: number | null }
  | {
      readonly ask: 'fetch';
      readonly folders: readonly string[];
      readonly since: number | null;
      /** Scripts to import as rules, in this order. */
      readonly scripts: readonly string[];
    }
  /** What is new in the mailbox that the audit remembers. */
  | { readonly ask: 'again' };

/** A folder of a mailbox. */
export interface MailboxFolder {
  readonly path: string;
  readonly use: FolderUse | null;
  /** Whether it shows messages of other folders only. */
  readonly isView: boolean;
  readonly messages: number;
  /** Null if the server does not tell. */
  readonly octets: number | null;
}

export interface MailboxContents {
  readonly folders: readonly MailboxFolder[];
  /** Null if scripts were not asked for. */
  readonly scripts: readonly ScriptName[] | null;
  /** Why scripts could not be asked for, in plain words; empty if they could. */
  readonly scriptTrouble: string;
}

/** Mail is being fetched; what was done besides, in plain words. */
export interface MailboxStarted {
  readonly started: string;
}

interface JobStarter {
  start(auditId: string, request: JobRequest, secret?: string): string;
}

const folderOf = ({ path, use, messages, octets }: ImapFolder): MailboxFolder => {
  return { path, use: maybeUseSaid(use), isView: isView({ use }), messages, octets };
};

/**
 * Connects to a mailbox, looks at it or starts to fetch from it; nothing changes there. Throws a refusal in plain words if
 * the server cannot be reached or used.
 */
export async function askMailbox(
  store: Store,
  runner: JobStarter,
  auditId: string,
  given: MailboxLogin,
  request: MailboxRequest,
  reader?: RulesReader,
): Promise<MailboxContents | MailboxStarted | Untrusted> {
  getAudit(store, auditId);
  if (request.ask !== 'look') refuseTwice(store, auditId);
  const login = { ...given, trusted: given.trusted ?? maybeTrusted(store, auditId, given) };
  let contents: readonly MailboxFolder[];
  try {
    const mail = await ImapMail.connect(login, login);
    try {
      keepTrusted(store, auditId, login, given.trusted);
      const since = request.ask === 'look' ? request.since : null;
      contents = await foldersOf(mail, since);
    } finally {
      await mail.close();
    }
  } catch (error) {
    if (error instanceof CertificateFault) return untrusted(error);
    throw error instanceof ConnectionFault ? new Refusal(error.message, 422) : error;
  }
  if (request.ask === 'look') {
    const there = await scriptsOf(store, auditId, login);
    return {
      folders: contents,
      scripts: there?.names ?? null,
      scriptTrouble: there?.inUse.found === 'nothing' ? there.inUse.why : '',
    };
  }
  const chosen = request.ask === 'fetch' ? request.folders : (maybeMailServer(store, auditId)?.folders ?? []);
  if (chosen.length === 0) throw new Refusal('No folder is chosen.', 422);
  let started = '';
  const there = await scriptsOf(store, auditId, login, async (client) => {
    if (request.ask !== 'fetch' || request.scripts.length === 0) return;
    try {
      started = await fetchScripts(store, runner, auditId, client, request.scripts, reader);
    } catch (error) {
      // Mail is fetched all the same.
      if (!(error instanceof Refusal)) throw error;
      started = error.message;
    }
  });
  if (request.ask === 'fetch') {
    const { host, port, security, user, sievePort } = login;
    const { folders, since } = request;
    keepMailServer(store, auditId, { host, port, security, user, sievePort, folders, since });
  }
  keepUses(store, auditId, contents);
  beginFetch(store, runner, auditId, there?.inUse ?? null, login.password);
  return { started };
}

/** The login of the mailbox that the audit remembers. */
export function rememberedLogin(store: Store, auditId: string, password: string, trusted: string | null): MailboxLogin {
  getAudit(store, auditId);
  const server = maybeMailServer(store, auditId);
  if (!server) throw new Refusal('This audit remembers no mailbox.', 404);
  const { host, port, security, user, sievePort } = server;
  return { host, port, security, user, sievePort, password, trusted };
}

async function foldersOf(mail: ImapMail, since: number | null): Promise<MailboxFolder[]> {
  const folders = (await mail.folders()).map(folderOf);
  if (since === null) return folders;
  const counted: MailboxFolder[] = [];
  for (const folder of folders) {
    if (folder.messages === 0) {
      counted.push(folder);
      continue;
    }
    await mail.open(folder.path);
    const uids = await mail.uids(new Date(since));
    counted.push({ ...folder, messages: uids.length, octets: await mail.octets(uids) });
  }
  return counted;
}

async function scriptsOf(
  store: Store,
  auditId: string,
  login: MailboxLogin,
  work?: Parameters<typeof lookAtScripts>[2],
): Promise<ScriptsThere | null> {
  if (login.sievePort === null) return null;
  const place = { host: login.host, port: login.sievePort };
  // A host mostly has one certificate for all that it offers.
  const trusted = maybeTrusted(store, auditId, place) ?? login.trusted;
  // ManageSieve has no port for TLS from the start (RFC 5804 section 1.8).
  const security = login.security === 'plain' ? 'plain' : 'starttls';
  return lookAtScripts({ ...place, security, trusted }, login, async (client) => {
    keepAnnounced(store, auditId, login.host, client.capabilities);
    await work?.(client);
  });
}

function refuseTwice(store: Store, auditId: string): void {
  const running = store
    .select({ id: sources.id })
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.state, 'importing'), isNotNull(sources.mailbox)))
    .get();
  if (running) throw new Refusal('Mail is already being fetched.', 409);
}

/** What folders are for decides how mail in them is understood. */
function keepUses(store: Store, auditId: string, folders: readonly MailboxFolder[]): void {
  const renamed = maybeMailServer(store, auditId)?.renamed ?? {};
  inTransaction(store, (tx) => {
    const before = Object.fromEntries(getAudit(tx, auditId).folderUses);
    const said = folders.flatMap(({ path, use }) => (use ? [[renamed[path] ?? path, use] as const] : []));
    const folderUses = { ...before, ...Object.fromEntries(said) };
    if (JSON.stringify(folderUses) === JSON.stringify(before)) return;
    tx.update(audits).set({ folderUses }).where(eq(audits.id, auditId)).run();
    countAnew(tx, auditId);
  });
}

function beginFetch(
  store: Store,
  runner: JobStarter,
  auditId: string,
  script: ScriptsThere['inUse'] | null,
  password: string,
): void {
  const server = maybeMailServer(store, auditId);
  if (!server) throw new Error('the server is not remembered');
  const sourceId = randomUUID();
  const mailbox = mailboxName(server);
  inTransaction(store, (tx) => {
    refuseTwice(tx, auditId);
    keepSource(tx, { id: sourceId, auditId, fileName: mailbox, digest: sourceId, mailbox, folder: '', bytes: 0 });
    beginLook(tx, getAudit(tx, auditId), sourceId, script);
  });
  runner.start(auditId, { kind: 'fetch', sourceId }, password);
}
