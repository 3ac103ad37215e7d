import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, open, readFile, rm, stat } from 'node:fs/promises';
import { basename, dirname, isAbsolute, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { and, eq, inArray } from 'drizzle-orm';
import { chainFromSieve } from '../core/rules/from-sieve';
import { joinChains } from '../core/rules/join';
import type { Chain } from '../core/rules/rule';
import { chainFromSheet, isSheet } from '../core/rules/sheet';
import { decodeScript } from '../core/sieve/decode';
import { listing } from '../core/sieve/diagnostics';
import { isXml, scriptText } from '../core/sieve/script-text';
import { DamagedArchive, readWithoutMail } from '../files/archive-file';
import { chainFromDocument, isChainDocument } from '../files/chain-document';
import { decodeText, readCsv } from '../files/csv';
import { fileKind, filesWithin } from '../files/mail-files';
import { auditFromArchive } from './archive';
import { getAudit, Refusal } from './audits';
import { faultsOf } from './changes';
import { databaseFile, inTransaction, type Store } from './database/open';
import { audits, scripts, sources } from './database/schema';
import type { JobRequest } from './jobs/job';
import { NOT_STARTED } from './sources';

/** Whatever runs jobs. */
interface JobStarter {
  start(auditId: string, request: JobRequest): string;
}

/** What became of a file that was brought in. */
export interface Brought {
  readonly kind: 'script' | 'mail';
  readonly statement: string;
}

/** A script larger than this is no script. */
const SCRIPT_LIMIT = 4 * 1024 * 1024;

/**
 * Takes a file into an audit: a Sieve script at once, mail by a job. Throws a refusal, in plain words, for what is
 * neither. `body` is read to its end; it need not fit into memory.
 */
export async function bringFile(
  store: Store,
  runner: JobStarter,
  auditId: string,
  fileName: string,
  body: AsyncIterable<Uint8Array>,
  folder: string | null = null,
): Promise<Brought> {
  getAudit(store, auditId);
  const file = join(dirname(databaseFile()), 'uploads', randomUUID());
  await mkdir(dirname(file), { recursive: true });
  let kept = false;
  try {
    const { digest, bytes } = await receive(body, file);
    if (bytes === 0) throw new Refusal(`“${fileName}” is empty.`, 422);
    refuseTwice(store, auditId, digest);
    if ((await kindOf(file, fileName, bytes)) === 'script') {
      return bringScript(store, auditId, fileName, digest, await readFile(file));
    }
    kept = true;
    bringMail(store, runner, auditId, fileName, {
      digest,
      bytes,
      file,
      folder: folder ?? folderOf(fileName),
      ours: true,
    });
    return { kind: 'mail', statement: `“${fileName}” is being read.` };
  } finally {
    if (!kept) await rm(file, { force: true });
  }
}

/**
 * Takes a file or a folder of the machine that the server runs on into an audit; it is read where it lies, and left as it
 * is. Throws a refusal, in plain words, where there is nothing to be read.
 */
export async function bringPath(store: Store, runner: JobStarter, auditId: string, path: string): Promise<Brought> {
  getAudit(store, auditId);
  if (!isAbsolute(path)) throw new Refusal('The path must be a whole one, from the root on.', 422);
  const found = await stat(path).catch(() => null);
  if (!found?.isDirectory() && !found?.isFile()) throw new Refusal(`There is no file or folder “${path}”.`, 404);
  const name = basename(path);
  try {
    const { digest, bytes } = await (found.isFile() ? digestOfFile(path) : digestOfFolder(path));
    if (bytes === 0) throw new Refusal(`“${name}” is empty.`, 422);
    refuseTwice(store, auditId, digest);
    if (found.isFile() && (await kindOf(path, name, bytes)) === 'script') {
      return bringScript(store, auditId, name, digest, await readFile(path));
    }
    const folder = found.isFile() ? folderOf(name) : 'INBOX';
    bringMail(store, runner, auditId, name, { digest, bytes, file: path, folder, ours: false });
    return { kind: 'mail', statement: `“${name}” is being read.` };
  } catch (error) {
    if (error instanceof Error && 'syscall' in error) {
      throw new Refusal(`“${path}” cannot be read by the server: ${error.message}.`, 422);
    }
    throw error;
  }
}

/**
 * Makes an audit of an archive: all of it at once, its mail by a job. Throws a refusal for what is none, and nothing is made then.
 * `body` is read to its end; it need not fit into memory.
 */
export async function bringArchive(store: Store, runner: JobStarter, body: AsyncIterable<Uint8Array>): Promise<string> {
  const file = join(dirname(databaseFile()), 'uploads', randomUUID());
  await mkdir(dirname(file), { recursive: true });
  let kept = false;
  try {
    const { digest, bytes } = await receive(body, file);
    const { rest, hasMail } = await readWithoutMail(file);
    const id = auditFromArchive(store, rest);
    kept = hasMail;
    if (hasMail) bringMail(store, runner, id, 'the archive', { digest, bytes, file, folder: 'INBOX', ours: true });
    else runner.start(id, { kind: 'simulate' });
    return id;
  } catch (error) {
    if (error instanceof DamagedArchive) throw new Refusal(`This file is no archive: ${error.message}.`, 422);
    throw error;
  } finally {
    if (!kept) await rm(file, { force: true });
  }
}

async function digestOfFile(file: string): Promise<{ digest: string; bytes: number }> {
  const hash = createHash('sha256');
  let bytes = 0;
  for await (const chunk of createReadStream(file, { highWaterMark: 1 << 20 })) {
    hash.update(chunk);
    bytes += chunk.length;
  }
  return { digest: hash.digest('hex'), bytes };
}

/** A folder is the same when the same files of the same sizes lie in it. */
async function digestOfFolder(root: string): Promise<{ digest: string; bytes: number }> {
  const files = await filesWithin(root);
  const digest = createHash('sha256')
    .update(JSON.stringify([root, files]))
    .digest('hex');
  return { digest, bytes: files.reduce((sum, { octets }) => sum + octets, 0) };
}

async function receive(body: AsyncIterable<Uint8Array>, file: string): Promise<{ digest: string; bytes: number }> {
  const hash = createHash('sha256');
  let bytes = 0;
  const meter = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      hash.update(chunk);
      bytes += chunk.length;
      done(null, chunk);
    },
  });
  await pipeline(body, meter, createWriteStream(file, { flags: 'wx' }));
  return { digest: hash.digest('hex'), bytes };
}

function refuseTwice(store: Store, auditId: string, digest: string): void {
  const script = store
    .select()
    .from(scripts)
    .where(and(eq(scripts.auditId, auditId), eq(scripts.digest, digest)))
    .get();
  const source = store
    .select()
    .from(sources)
    .where(
      and(eq(sources.auditId, auditId), eq(sources.digest, digest), inArray(sources.state, ['ready', 'importing'])),
    )
    .get();
  const before = script ?? source;
  if (before) throw new Refusal(`The very same file was brought in before, as “${before.fileName}”.`, 409);
}

/** Octets that are looked at to tell what a file is. */
const LOOK = 64 * 1024;

async function kindOf(file: string, fileName: string, bytes: number): Promise<'script' | 'mail'> {
  const head = await readHead(file);
  const text = head.toString('latin1');
  if (fileKind(head) === 'document') {
    if (isChainDocument(text)) return 'script';
    const whole = 'drop it on the first page, where it is opened as an audit of its own';
    throw new Refusal(
      `“${fileName}” ${text.includes('"ysomeris-audit"') ? `is a whole audit: ${whole}` : 'is JSON of another kind, neither rules nor mail'}.`,
      422,
    );
  }
  if (/^[\r\n]*From /.test(text) || fileKind(head) !== 'mail') return 'mail';
  for (const [kind, marks] of OTHER_FILES) {
    if (marks.some((mark) => text.startsWith(mark)))
      throw new Refusal(`“${fileName}” is ${kind}, neither a Sieve script nor a file of mail.`, 422);
  }
  if (isSheetName(fileName)) {
    if (bytes > SCRIPT_LIMIT) throw new Refusal(`“${fileName}” is too large for a sheet of rules.`, 413);
    return 'script';
  }
  const named = /\.(sieve|siv|sv)$/i.test(fileName);
  const mailNamed = /\.(mbox|mbx|eml)$/i.test(fileName);
  if (named && bytes > SCRIPT_LIMIT) throw new Refusal(`“${fileName}” is too large for a Sieve script.`, 413);
  if (named) return 'script';
  if (bytes <= SCRIPT_LIMIT && isXml(text)) return 'script';
  if (mailNamed || /\nFrom [^\n]*\d{4}\r?\n/.test(text) || /^[!-9;-~]+:[^\n]*\r?\n([!-9;-~]+:|[ \t])/.test(text))
    return 'mail';
  if (bytes <= SCRIPT_LIMIT && !text.includes('\0') && readsAsScript(await readFile(file))) return 'script';
  throw new Refusal(`“${fileName}” is neither a Sieve script nor a file of mail that can be read here.`, 422);
}

/** The first octets of what people drop by mistake, one character for each octet. */
const OTHER_FILES: readonly (readonly [string, readonly string[]])[] = [
  ['a PDF document', ['%PDF-']],
  ['a PNG picture', ['\u0089PNG']],
  ['a JPEG picture', ['\u00ff\u00d8\u00ff']],
  ['an SQLite database', ['SQLite format 3']],
  ['a program', ['\u007fELF', 'MZ\u0090']],
];

async function readHead(file: string): Promise<Buffer> {
  const handle = await open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(LOOK), 0, LOOK, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/** At least one entry that works, without its name to go by. */
function readsAsScript(bytes: Uint8Array): boolean {
  const text = scriptText(decodeScript(bytes).source);
  if (!text.ok) return false;
  const { chain } = chainFromSieve(text.source);
  return chain.entries.some((entry) => entry.kind === 'rule' || entry.works);
}

const isSheetName = (fileName: string): boolean => /\.(csv|tsv)$/i.test(fileName);

interface RulesRead {
  readonly chain: Chain;
  /** As it is kept for being looked at. */
  readonly source: string;
  readonly faults: readonly string[];
}

/** Rules as a script, in plain form or in XML, or as a sheet. */
function readRules(fileName: string, bytes: Uint8Array): RulesRead {
  if (isSheetName(fileName)) return readSheet(fileName, decodeText(bytes));
  if (fileKind(bytes.subarray(0, LOOK)) === 'document') return readDocument(fileName, decodeText(bytes));
  const { source: given, diagnostics } = decodeScript(bytes);
  const text = scriptText(given);
  if (!text.ok) {
    throw new Refusal(`“${fileName}” is no script in XML: line ${text.line}, ${text.message}.`, 422);
  }
  const { source } = text;
  const read = chainFromSieve(source);
  const faults = listing('', source, [...diagnostics, ...read.diagnostics]).map((line) => line.replace(/^:/, ''));
  return { chain: read.chain, source, faults };
}

function readDocument(fileName: string, source: string): RulesRead {
  const found = chainFromDocument(maybeJson(source));
  if (!found.ok) throw new Refusal(`“${fileName}” cannot be read: ${found.reason}.`, 422);
  const [fault] = faultsOf(found.chain);
  if (fault !== undefined) throw new Refusal(`“${fileName}” cannot be read: ${fault}.`, 422);
  return { chain: found.chain, source, faults: [] };
}

function maybeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

function readSheet(fileName: string, source: string): RulesRead {
  const { rows, odd } = readCsv(source);
  if (!isSheet(rows)) {
    throw new Refusal(
      `“${fileName}” has no column “Rule”: its columns can be told what they mean on the page where rules are typed in.`,
      422,
    );
  }
  const { chain, faults } = chainFromSheet(rows);
  const told = faults.map(({ row, column, words }) => `row ${row + 1}, ${column}: ${words}`);
  return { chain, source, faults: [...odd, ...told] };
}

function bringScript(store: Store, auditId: string, fileName: string, digest: string, bytes: Uint8Array): Brought {
  const { chain: added, source, faults } = readRules(fileName, bytes);
  const { entries } = added;
  if (entries.length === 0) throw new Refusal(`“${fileName}” holds no rules.`, 422);
  const blocks = entries.filter((entry) => entry.kind === 'script').length;
  inTransaction(store, (tx) => {
    const row = tx.select().from(audits).where(eq(audits.id, auditId)).get();
    const before = JSON.parse(row?.chain ?? '{"entries":[],"closing":""}') as Chain;
    const chain = joinChains(before, added);
    tx.update(audits)
      .set({ chain: JSON.stringify(chain) })
      .where(eq(audits.id, auditId))
      .run();
    tx.insert(scripts)
      .values({
        id: randomUUID(),
        auditId,
        fileName,
        digest,
        source,
        rules: entries.length - blocks,
        blocks,
        faults: JSON.stringify(faults),
        createdAt: Date.now(),
      })
      .run();
  });
  return { kind: 'script', statement: statementOf(fileName, entries.length - blocks, blocks, faults.length) };
}

function statementOf(fileName: string, rules: number, blocks: number, faults: number): string {
  const parts = [`${rules} ${rules === 1 ? 'rule' : 'rules'}`];
  if (blocks > 0) parts.push(`${blocks} kept word for word`);
  if (faults > 0) parts.push(`${faults} ${faults === 1 ? 'fault' : 'faults'}`);
  return `“${fileName}”: ${parts.join(', ')}.`;
}

interface MailFile {
  readonly digest: string;
  readonly bytes: number;
  readonly file: string;
  readonly folder: string;
  readonly ours: boolean;
}

function bringMail(store: Store, runner: JobStarter, auditId: string, fileName: string, mail: MailFile): void {
  const id = randomUUID();
  store
    .insert(sources)
    .values({
      id,
      auditId,
      fileName,
      digest: mail.digest,
      folder: mail.folder,
      bytes: mail.bytes,
      state: 'importing',
      firstMessage: NOT_STARTED,
      messages: 0,
      statement: '',
      createdAt: Date.now(),
    })
    .run();
  runner.start(auditId, { kind: 'import', sourceId: id, file: mail.file, ours: mail.ours });
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
