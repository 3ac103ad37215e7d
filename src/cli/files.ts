import { readFile } from 'node:fs/promises';
import { MessageTooLarge } from '../core/mail/mbox';
import { type Envelope, envelopeOf, type MailMessage, readMessage } from '../core/mail/message';
import { chainFromSieve, type ReadScript } from '../core/rules/from-sieve';
import { joinChains } from '../core/rules/join';
import type { Chain } from '../core/rules/rule';
import { chainFromSheet, isSheet } from '../core/rules/sheet';
import { sieveFromChain } from '../core/rules/to-sieve';
import { decodeScript } from '../core/sieve/decode';
import { type Diagnostic, listing } from '../core/sieve/diagnostics';
import { scriptText } from '../core/sieve/script-text';
import { DamagedArchive, readWithoutMail } from '../files/archive-file';
import { chainFromDocument } from '../files/chain-document';
import { decodeText, readCsv } from '../files/csv';
import { mailIn } from '../files/mail/formats';
import { type PassedOver, Unreadable } from '../files/mail/found';
import { CliError } from './errors';
import { localPath, STANDARD_INPUT } from './local-path';

export interface ScriptFile {
  readonly source: string;
  readonly read: ReadScript;
  readonly faults: readonly string[];
}

export async function readScriptFile(path: string): Promise<ScriptFile> {
  if (/\.json$/i.test(path)) return readDocumentFile(path);
  const bytes = await readFile(await localPath(path)).catch((error: NodeJS.ErrnoException) => {
    throw new CliError(`${path}: ${reasonOf(error)}`);
  });
  // What comes on standard input has no name that tells what it is.
  if (path === STANDARD_INPUT && /^\s*\{\s*"/.test(Buffer.from(bytes.subarray(0, 100)).toString('latin1'))) {
    return readDocumentFile(path);
  }
  const rows = /\.(csv|tsv)$/i.test(path) || path === STANDARD_INPUT ? readCsv(decodeText(bytes)).rows : null;
  if (rows && (path !== STANDARD_INPUT || isSheet(rows))) return readSheetFile(path, rows);
  const decoded = decodeScript(bytes);
  const { diagnostics } = decoded;
  const text = scriptText(decoded.source);
  if (!text.ok) throw new CliError(`${path}:${text.line}:${text.column}: ${text.message}`);
  const { source } = text;
  const read = chainFromSieve(source);
  const all: Diagnostic[] = [...diagnostics, ...read.diagnostics];
  return { source, read, faults: listing(path, source, all) };
}

/** The rules of a chain or of a whole audit, as JSON. */
async function readDocumentFile(path: string): Promise<ScriptFile> {
  const document = await readWithoutMail(await localPath(path)).catch((error: unknown) => {
    if (error instanceof DamagedArchive) throw new CliError(`${path}: ${error.message}`);
    throw new CliError(`${path}: ${reasonOf(error as NodeJS.ErrnoException)}`);
  });
  const found = chainFromDocument(document.rest);
  if (!found.ok) throw new CliError(`${path}: ${found.reason}`);
  try {
    return asScript(path, found.chain);
  } catch {
    throw new CliError(`${path}: a test or an action in it is none of Sieve`);
  }
}

/** Rules that were read from another form, and what is said of the script that they stand for. */
function asScript(path: string, chain: Chain): ScriptFile {
  const source = sieveFromChain(chain).text;
  const read = chainFromSieve(source);
  return { source, read: { ...read, chain }, faults: listing(path, source, read.diagnostics) };
}

/** A sheet of rules; what is said of it as a script is the script that it stands for. */
function readSheetFile(path: string, rows: readonly (readonly string[])[]): ScriptFile {
  if (!isSheet(rows)) throw new CliError(`${path}: this sheet has no column “Rule”`);
  const { chain, faults } = chainFromSheet(rows);
  return {
    ...asScript(path, chain),
    faults: faults.map(({ row, column, words }) => `${path}:${row + 1}: ${column}: ${words}`),
  };
}

/** Scripts that run one after the other. What a server would refuse is not simulated: what it would do is nothing. */
export async function readSoundChain(paths: readonly string[]): Promise<Chain> {
  let chain: Chain = { entries: [], closing: '' };
  const faults: string[] = [];
  for (const path of paths) {
    const script = await readScriptFile(path);
    faults.push(...script.faults);
    chain = joinChains(chain, script.read.chain);
  }
  if (faults.length > 0) throw new CliError(faults.join('\n'));
  return chain;
}

export interface FileMessage {
  readonly raw: Uint8Array;
  /** Where it lies and how it is marked, as far as its place in an archive or a Maildir tells. */
  readonly folder: string | null;
  readonly flags: readonly string[];
  readonly message: MailMessage;
  readonly envelope: Envelope;
}

/**
 * The messages of an mbox file, an .eml file, a Maildir folder (names in order), or an archive, one at a time. `foundFolder` is told
 * of each folder of a Maildir, whether or not a message is in it.
 */
export async function* readMessages(
  path: string,
  me: readonly string[],
  foundFolder: (folder: string) => void = () => {},
): AsyncGenerator<FileMessage> {
  try {
    for await (const found of foundMessages(path, foundFolder)) {
      const message = readMessage(found.raw);
      yield { ...found, message, envelope: envelopeOf(message, me[0] ?? null) };
    }
  } catch (error) {
    if (error instanceof Unreadable || error instanceof MessageTooLarge)
      throw new CliError(`${path}: ${error.message}`);
    if (error instanceof Error && 'syscall' in error) {
      throw new CliError(`${path}: ${reasonOf(error as NodeJS.ErrnoException)}`);
    }
    throw error;
  }
}

type Found = Pick<FileMessage, 'raw' | 'folder' | 'flags'>;

const told = new Set<string>();

/** Whatever the browser reads too: files, folders of them, Maildir folders, archives. What is passed over is told. */
async function* foundMessages(path: string, foundFolder: (folder: string) => void): AsyncGenerator<Found> {
  const passOver = (passed: PassedOver) => {
    const line = `${passed.path === '' ? path : `${path}/${passed.path}`}: passed over: ${passed.reason}\n`;
    // Messages may be read more than once; what is passed over is told once.
    if (!told.has(line)) process.stderr.write(line);
    told.add(line);
  };
  const settings = { name: path, folder: '', progress: () => {}, isEnd: () => false, passOver, foundFolder };
  for await (const { raw, folder, flags, path: inner } of mailIn(await localPath(path), settings)) {
    if (raw.length === 0) continue;
    yield { raw, folder: folder === '' || inner === null ? null : folder, flags };
  }
}

function reasonOf(error: NodeJS.ErrnoException): string {
  if (error.code === 'ENOENT') return 'there is no such file';
  if (error.code === 'EISDIR') return 'this is a folder';
  if (error.code === 'EACCES') return 'this file may not be read';
  return error.message;
}
