import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { basename, isAbsolute } from 'node:path';
import { and, eq } from 'drizzle-orm';
import type { Edit } from '../../core/rules/edit';
import { joinChains } from '../../core/rules/lists';
import { DamagedArchive, readWithoutMail } from '../../files/archive-file';
import { auditFromArchive } from '../audits/archive';
import { getAudit, Refusal } from '../audits/audits';
import { inTransaction, type Store } from '../database/open';
import { scripts, sources } from '../database/schema';
import { kindOf } from './file-kind';
import { importScript, keepScript, largestIdInChanges, refuseTwice, rulesIn } from './import-script';
import { NOT_STARTED, restoreSource } from './mail-sources';
import { AlreadyThere, type Imported, type JobStarter, type RulesReader, readRules } from './rules-file';
import { listScripts, scriptReplaced } from './script-sources';
import { digestOfPath, keepReceipt, receive, uploadFile } from './uploads';

/** Keeps a receipt of what becomes of a file, whatever that is. */
async function withReceipt(
  store: Store,
  auditId: string,
  fileName: string,
  work: () => Promise<Imported>,
): Promise<Imported> {
  getAudit(store, auditId);
  try {
    const brought = await work();
    keepReceipt(store, auditId, { fileName, outcome: 'taken', ...brought, words: brought.statement });
    return brought;
  } catch (error) {
    if (error instanceof AlreadyThere) {
      const { kind, target, message: words } = error;
      keepReceipt(store, auditId, { fileName, outcome: 'there', kind, target, words });
    } else if (error instanceof Refusal) {
      keepReceipt(store, auditId, { fileName, outcome: 'refused', kind: null, target: null, words: error.message });
    }
    throw error;
  }
}

/** How a file is imported. */
interface BringSettings {
  /** Null for the one that the name tells. */
  readonly folder?: string | null;
  /** Rules are read in this thread where nobody else does. */
  readonly reader?: RulesReader;
}

const readsHere: RulesReader = async (fileName, octets) => readRules(fileName, octets);

/**
 * Takes a file into an audit: a Sieve script at once, mail by a job. Throws a refusal, in plain words, for what is
 * neither, and keeps a receipt in each case. `body` is read to its end; it need not fit into memory.
 */
export function importFile(
  store: Store,
  runner: JobStarter,
  auditId: string,
  fileName: string,
  body: AsyncIterable<Uint8Array>,
  settings: BringSettings = {},
): Promise<Imported> {
  return withReceipt(store, auditId, fileName, () => takeFile(store, runner, auditId, fileName, body, settings));
}

async function takeFile(
  store: Store,
  runner: JobStarter,
  auditId: string,
  fileName: string,
  body: AsyncIterable<Uint8Array>,
  { folder = null, reader = readsHere }: BringSettings,
): Promise<Imported> {
  const file = await uploadFile();
  let kept = false;
  try {
    const { digest, bytes } = await receive(body, file);
    if (bytes === 0) throw new Refusal(`“${fileName}” is empty.`, 422);
    refuseTwice(store, auditId, digest);
    const kind = await kindOf(file, fileName, bytes);
    if (kind !== 'mail') {
      return importScript(store, auditId, fileName, digest, await rulesIn(file, fileName, kind, reader));
    }
    const back = maybePutBack(store, runner, auditId, digest);
    if (back) return back;
    const mail = { digest, bytes, file, path: null, folder: folder ?? folderOf(fileName) };
    const brought = queueMail(store, runner, auditId, fileName, mail);
    kept = true;
    return brought;
  } finally {
    if (!kept) await rm(file, { force: true });
  }
}

/**
 * Takes a file or a folder of the machine that the server runs on into an audit; it is read where it lies, and left as it
 * is. Throws a refusal, in plain words, where there is nothing to be read.
 */
export function importPath(
  store: Store,
  runner: JobStarter,
  auditId: string,
  path: string,
  { reader = readsHere }: BringSettings = {},
): Promise<Imported> {
  return withReceipt(store, auditId, path, () => takePath(store, runner, auditId, path, reader));
}

async function takePath(
  store: Store,
  runner: JobStarter,
  auditId: string,
  path: string,
  reader: RulesReader,
): Promise<Imported> {
  if (!isAbsolute(path)) throw new Refusal('The path must be a whole one, from the root on.', 422);
  const name = basename(path);
  try {
    const { digest, bytes, isFile } = await digestOfPath(path);
    if (bytes === 0) throw new Refusal(`“${name}” is empty.`, 422);
    refuseTwice(store, auditId, digest);
    const kind = isFile ? await kindOf(path, name, bytes) : 'mail';
    if (kind !== 'mail') {
      return importScript(store, auditId, name, digest, await rulesIn(path, name, kind, reader));
    }
    const folder = isFile ? folderOf(name) : 'INBOX';
    const back = maybePutBack(store, runner, auditId, digest);
    return back ?? queueMail(store, runner, auditId, name, { digest, bytes, file: path, path, folder });
  } catch (error) {
    if (error instanceof Error && 'syscall' in error) {
      throw new Refusal(`“${path}” cannot be read by the server: ${error.message}.`, 422);
    }
    throw error;
  }
}

/**
 * Reads a file of rules that is to take the place of another one: keeps it beside that, without a rule in the chain yet, and gives
 * the edits that put its rules there. Throws a refusal, with a receipt, for what holds no rules.
 */
export async function readAgain(
  store: Store,
  auditId: string,
  scriptId: string,
  fileName: string,
  body: AsyncIterable<Uint8Array>,
  reader: RulesReader = readsHere,
): Promise<{ readonly edits: readonly Edit[]; readonly words: string }> {
  const file = await uploadFile();
  let edits: readonly Edit[] = [];
  try {
    await withReceipt(store, auditId, fileName, async () => {
      const { digest, bytes } = await receive(body, file);
      if (bytes === 0) throw new Refusal(`“${fileName}” is empty.`, 422);
      const kind = await kindOf(file, fileName, bytes);
      if (kind === 'mail') throw new Refusal(`“${fileName}” is mail, and holds no rules.`, 422);
      const read = await rulesIn(file, fileName, kind, reader);
      const id = randomUUID();
      inTransaction(store, (tx) => {
        const audit = getAudit(tx, auditId);
        const script = listScripts(tx, audit).find((one) => one.id === scriptId);
        if (!script) throw new Refusal('There is no such file of rules.', 404);
        const same = tx
          .select({ digest: scripts.digest })
          .from(scripts)
          .where(and(eq(scripts.auditId, auditId), eq(scripts.id, scriptId)))
          .get();
        if (same?.digest === digest && script.entries.length > 0)
          throw new AlreadyThere(script.fileName, 'script', scriptId);
        const used = largestIdInChanges(tx, auditId);
        const { entries } = joinChains({ entries: audit.baseline.entries, closing: '' }, read.chain, used);
        const made = entries.slice(audit.baseline.entries.length);
        edits = scriptReplaced(audit, script, made);
        keepScript(
          tx,
          auditId,
          { id, fileName, digest },
          read,
          made.map((entry) => entry.id),
        );
      });
      return { kind: 'script', target: id, statement: `“${fileName}” was read; look at its effect below.` };
    });
    return { edits, words: `Read “${fileName}” in the place of what was read before` };
  } finally {
    await rm(file, { force: true });
  }
}

/**
 * Makes an audit of an archive: all of it at once, its mail by a job. Throws a refusal for what is none, and nothing is made then.
 * `body` is read to its end; it need not fit into memory.
 */
export async function importArchive(
  store: Store,
  runner: JobStarter,
  body: AsyncIterable<Uint8Array>,
): Promise<string> {
  const file = await uploadFile();
  let kept = false;
  try {
    const { digest, bytes } = await receive(body, file);
    const { rest, hasMail } = await readWithoutMail(file);
    const id = auditFromArchive(store, rest);
    kept = hasMail;
    if (hasMail) queueMail(store, runner, id, 'the archive', { digest, bytes, file, path: null, folder: 'INBOX' });
    else runner.start(id, { kind: 'simulate' });
    return id;
  } catch (error) {
    if (error instanceof DamagedArchive) throw new Refusal(`This file is no archive: ${error.message}.`, 422);
    throw error;
  } finally {
    if (!kept) await rm(file, { force: true });
  }
}

/** Puts the source back if the same file was imported and removed; otherwise null. */
function maybePutBack(store: Store, runner: JobStarter, auditId: string, digest: string): Imported | null {
  const source = store
    .select({ id: sources.id, fileName: sources.fileName })
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.digest, digest), eq(sources.state, 'removed')))
    .get();
  if (!source) return null;
  restoreSource(store, auditId, source.id);
  runner.start(auditId, { kind: 'simulate' });
  return { kind: 'mail', target: source.id, statement: `“${source.fileName}” was put back.` };
}

/**
 * Imports a file of mail in the place of another one, whose messages go once those of this one are there. Without a file, the path
 * that the other one came from is read again. Throws a refusal, with a receipt, for what is no mail.
 */
export async function readMailAgain(
  store: Store,
  runner: JobStarter,
  auditId: string,
  sourceId: string,
  sent: { readonly fileName: string; readonly body: AsyncIterable<Uint8Array> } | null,
): Promise<Imported> {
  getAudit(store, auditId);
  const source = store
    .select()
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.id, sourceId)))
    .get();
  if (source?.state !== 'ready') throw new Refusal('There is no such file of mail.', 404);
  const fileName = sent?.fileName ?? source.fileName;
  return withReceipt(store, auditId, fileName, async () => {
    const file = sent ? await uploadFile() : source.path;
    if (file === null) throw new Refusal('The server has no path for this file. Choose the file instead.', 422);
    let kept = false;
    try {
      const { digest, bytes } = sent ? await receive(sent.body, file) : await digestOfPath(file);
      if (bytes === 0) throw new Refusal(`“${fileName}” is empty.`, 422);
      refuseTwice(store, auditId, digest);
      if (sent && (await kindOf(file, fileName, bytes)) !== 'mail') throw new Refusal(`“${fileName}” is no mail.`, 422);
      const mail = { digest, bytes, file, path: sent ? null : file, folder: source.folder };
      const brought = queueMail(store, runner, auditId, fileName, mail, sourceId);
      kept = true;
      return brought;
    } finally {
      if (sent && !kept) await rm(file, { force: true });
    }
  });
}

interface MailFile {
  readonly digest: string;
  readonly bytes: number;
  readonly file: string;
  /** Where it is on the server's machine, and stays; null for a copy of what was sent. */
  readonly path: string | null;
  readonly folder: string;
}

function queueMail(
  store: Store,
  runner: JobStarter,
  auditId: string,
  fileName: string,
  mail: MailFile,
  replaces: string | null = null,
): Imported {
  const id = randomUUID();
  inTransaction(store, (tx) => {
    refuseTwice(tx, auditId, mail.digest);
    tx.insert(sources)
      .values({
        id,
        auditId,
        fileName,
        digest: mail.digest,
        path: mail.path,
        folder: mail.folder,
        bytes: mail.bytes,
        state: 'importing',
        firstMessage: NOT_STARTED,
        messages: 0,
        statement: '',
        createdAt: Date.now(),
      })
      .run();
  });
  runner.start(auditId, {
    kind: 'import',
    sourceId: id,
    file: mail.file,
    ours: mail.path === null,
    ...(replaces === null ? {} : { replaces }),
  });
  return { kind: 'mail', target: id, statement: `“${fileName}” is being read.` };
}

/**
 * The folder a file of mail stands for: its name without the ending (common practice). In an archive the places of the
 * files name the folders, and what lies in none came to the inbox, as a message by itself did.
 */
export function folderOf(fileName: string): string {
  if (/\.(eml|zip|tar|tgz|tar\.gz)$/i.test(fileName)) return 'INBOX';
  const name = fileName
    .replace(/^.*[/\\]/, '')
    .replace(/\.gz$/i, '')
    .replace(/\.(mbox|mbx|txt)$/i, '')
    .trim();
  return name.toUpperCase() === 'INBOX' || name === '' ? 'INBOX' : name;
}

/** A file of the server's own machine, for the demo. */
export const fileBody = (file: string): AsyncIterable<Uint8Array> => createReadStream(file);
