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
import { keepSource, restoreSource } from './mail-sources';
import { AlreadyThere, type Imported, type JobStarter, type RulesReader, readRules } from './rules-file';
import { listScripts, scriptReplaced } from './script-sources';
import { digestOfPath, keepReceipt, receive, uploadFile } from './uploads';

/** Writes a receipt for the outcome of a file, whatever it is. */
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
  /** Null for the kind that the file itself tells. */
  readonly folder?: string | null;
  /** Rules are read in this thread if no job runner is given. */
  readonly reader?: RulesReader;
}

const readsHere: RulesReader = async (fileName, octets, me) => readRules(fileName, octets, me);

/**
 * Imports a file into an audit: rules at once, mail by a job. Throws a refusal in plain words for anything else, and
 * writes a receipt in each case. `body` is streamed to its end; it need not fit into memory.
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
      return importScript(
        store,
        auditId,
        fileName,
        digest,
        await rulesIn(file, fileName, kind, { reader, me: getAudit(store, auditId).ownAddresses }),
      );
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
 * Imports a file or folder of the server's machine, which is read in place and not changed. Throws a refusal in plain
 * words if it cannot be read.
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
  if (!isAbsolute(path)) throw new Refusal('The path must be absolute, starting at the root.', 422);
  const name = basename(path);
  try {
    const { digest, bytes, isFile } = await digestOfPath(path);
    if (bytes === 0) throw new Refusal(`“${name}” is empty.`, 422);
    refuseTwice(store, auditId, digest);
    const kind = isFile ? await kindOf(path, name, bytes) : 'mail';
    if (kind !== 'mail') {
      return importScript(
        store,
        auditId,
        name,
        digest,
        await rulesIn(path, name, kind, { reader, me: getAudit(store, auditId).ownAddresses }),
      );
    }
    const folder = isFile ? folderOf(name) : 'INBOX';
    const back = maybePutBack(store, runner, auditId, digest);
    return back ?? queueMail(store, runner, auditId, name, { digest, bytes, file: path, path, folder });
  } catch (error) {
    if (error instanceof Error && 'syscall' in error) {
      throw new Refusal(`The server cannot read “${path}”: ${error.message}.`, 422);
    }
    throw error;
  }
}

/**
 * Reads a file of rules that is to replace another one: stores it without rules in the chain, and returns the edits
 * that put its rules in place. Throws a refusal, with a receipt, if it contains no rules.
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
      if (kind === 'mail') throw new Refusal(`“${fileName}” is mail and contains no rules.`, 422);
      const read = await rulesIn(file, fileName, kind, { reader, me: getAudit(store, auditId).ownAddresses });
      const id = randomUUID();
      inTransaction(store, (tx) => {
        const audit = getAudit(tx, auditId);
        const script = listScripts(tx, audit).find((one) => one.id === scriptId);
        if (!script) throw new Refusal('This rules file no longer exists.', 404);
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
      return { kind: 'script', target: id, statement: `“${fileName}” was read; its effect is shown below.` };
    });
    return { edits, words: `Replace the rules of an earlier import with “${fileName}”` };
  } finally {
    await rm(file, { force: true });
  }
}

/**
 * Creates an audit from an exported one: its rules at once, its mail by a job. Throws a refusal if it is not valid;
 * nothing is created then. `body` is streamed to its end.
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
    if (error instanceof DamagedArchive)
      throw new Refusal(`This file is not an exported audit: ${error.message}.`, 422);
    throw error;
  } finally {
    if (!kept) await rm(file, { force: true });
  }
}

/** Restores the source if the same file was imported and removed, else returns null. */
function maybePutBack(store: Store, runner: JobStarter, auditId: string, digest: string): Imported | null {
  const source = store
    .select({ id: sources.id, fileName: sources.fileName })
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.digest, digest), eq(sources.state, 'removed')))
    .get();
  if (!source) return null;
  restoreSource(store, auditId, source.id);
  runner.start(auditId, { kind: 'simulate' });
  return { kind: 'mail', target: source.id, statement: `“${source.fileName}” was restored.` };
}

/**
 * Imports a file of mail that replaces another one, whose messages are removed once those of the new one are stored.
 * Without a file, the original path is read again. Throws a refusal, with a receipt, for a file that is not mail.
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
  if (source?.state !== 'ready') throw new Refusal('This mail file no longer exists.', 404);
  const fileName = sent?.fileName ?? source.fileName;
  return withReceipt(store, auditId, fileName, async () => {
    const file = sent ? await uploadFile() : source.path;
    if (file === null)
      throw new Refusal('The server does not know the path of this file. Choose the file instead.', 422);
    let kept = false;
    try {
      const { digest, bytes } = sent ? await receive(sent.body, file) : await digestOfPath(file);
      if (bytes === 0) throw new Refusal(`“${fileName}” is empty.`, 422);
      refuseTwice(store, auditId, digest);
      if (sent && (await kindOf(file, fileName, bytes)) !== 'mail')
        throw new Refusal(`“${fileName}” is not mail.`, 422);
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
  /** Its permanent path on the server's machine; null for a temporary copy of an upload. */
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
    const { digest, path, folder, bytes } = mail;
    keepSource(tx, { id, auditId, fileName, digest, path, folder, bytes });
  });
  runner.start(auditId, {
    kind: 'import',
    sourceId: id,
    file: mail.file,
    ours: mail.path === null,
    ...(replaces === null ? {} : { replaces }),
  });
  return { kind: 'mail', target: id, statement: `“${fileName}” is being imported.` };
}

/**
 * The folder of a file of mail: its name without the extension (common practice). In an archive, paths name the
 * folders; a message outside any folder was in the inbox, like a single message.
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
