import { readFile } from 'node:fs/promises';
import { MessageTooLarge } from '../core/mail/mbox';
import { type MailMessage, readMessage } from '../core/mail/message';
import { chainFromSieve } from '../core/rules/from-sieve';
import { joinChains } from '../core/rules/lists';
import { type Profile, unfitFor, withProfile } from '../core/rules/profile';
import type { Chain } from '../core/rules/rule';
import { isSheet } from '../core/rules/sheet';
import { sieveFromChain } from '../core/rules/to-sieve';
import { listing } from '../core/sieve/diagnostics';
import { DamagedArchive, readWithoutMail } from '../files/archive-file';
import { chainFromDocument } from '../files/chain-document';
import { profileShape } from '../files/chain-shape';
import { decodeText, readCsv } from '../files/csv';
import { mailIn } from '../files/mail/formats';
import { type FoundMail, type PassedOver, Unreadable } from '../files/mail/found';
import { headOf } from '../files/mail/streams';
import { RULES_FORMS, rulesForm } from '../files/rules/forms';
import { codeOf } from '../files/undeclared';
import { CliError, localPath, STANDARD_INPUT } from './options';

export interface RulesFile {
  readonly chain: Chain;
  /** `FILE:place: what is wrong`. */
  readonly faults: readonly string[];
}

/** Reads rules in any format; `me` are the user's own addresses, which sentences may speak of. */
export async function readRulesFile(path: string, me: readonly string[] = []): Promise<RulesFile> {
  const file = await localPath(path);
  const octets = await headOf(file).catch((error: unknown) => {
    throw new CliError(`${path}: ${reasonOf(error)}`);
  });
  const name = rulesForm(path, octets);
  // An exported audit may contain all its mail, so it is streamed.
  if (name === 'json') return readDocumentFile(path, file);
  const whole = await readFile(file);
  const read = RULES_FORMS[isUnnamedSheet(path, whole) ? 'sheet' : name].read(whole, { me });
  if (!read.ok) throw new CliError(`${[path, ...(read.place ?? [])].join(':')}: ${read.reason}`);
  const faults = read.faults.map(({ at, words }) => [path, ...(at === '' ? [] : [lineOf(at)]), ` ${words}`].join(':'));
  return { chain: read.chain, faults };
}

/** Standard input has no file name to tell the format. */
const isUnnamedSheet = (path: string, octets: Uint8Array): boolean =>
  path === STANDARD_INPUT && isSheet(readCsv(decodeText(octets)).rows);

/** The place of a fault, to be appended to the name of a file. */
const lineOf = (at: string): string => at.replace(/^row (\d+), /, '$1: ');

/** The rules of a chain or exported audit in JSON, and the faults that a script of them would have. */
async function readDocumentFile(path: string, file: string): Promise<RulesFile> {
  const document = await readWithoutMail(file).catch((error: unknown) => {
    throw new CliError(`${path}: ${error instanceof DamagedArchive ? error.message : reasonOf(error)}`);
  });
  const found = chainFromDocument(document.rest);
  if (!found.ok) throw new CliError(`${path}: ${found.reason}`);
  try {
    const source = sieveFromChain(found.chain).text;
    return { chain: found.chain, faults: listing(path, source, chainFromSieve(source).diagnostics) };
  } catch {
    throw new CliError(`${path}: it contains a test or an action that Sieve does not have`);
  }
}

/**
 * Reads scripts that run one after another, under the profile of a file if one is named. A script that a server would
 * reject is not simulated.
 */
export async function readSoundChain(
  paths: readonly string[],
  { profile, me }: { readonly profile?: string | undefined; readonly me?: readonly string[] } = {},
): Promise<Chain> {
  let chain: Chain = { entries: [], closing: '' };
  const faults: string[] = [];
  const own: Profile[] = [];
  for (const path of paths) {
    const rules = await readRulesFile(path, me);
    faults.push(...rules.faults);
    if (rules.chain.profile) own.push(rules.chain.profile);
    chain = joinChains(chain, rules.chain);
  }
  if (faults.length > 0) throw new CliError(faults.join('\n'));
  if (profile !== undefined) return underProfile(chain, profile);
  const [only, ...others] = own;
  if (!only) return chain;
  if (others.length > 0 || paths.length > 1)
    throw new CliError('rules of a program other than a Sieve server cannot run after other rules; give one file');
  return withProfile(chain, only);
}

/** A chain under the profile in a file; without a file, as it is. */
export async function underProfile(chain: Chain, path: string | undefined): Promise<Chain> {
  if (path === undefined) return chain;
  const profile = await readProfile(path);
  const [why] = unfitFor(chain);
  const fitted = withProfile(chain, profile);
  if (fitted.profile && why !== undefined) throw new CliError(`${path}: these rules can only run as Sieve: ${why}`);
  return fitted;
}

async function readProfile(path: string): Promise<Profile> {
  const text = await readFile(await localPath(path), 'utf8').catch((error: unknown) => {
    throw new CliError(`${path}: ${reasonOf(error)}`);
  });
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new CliError(`${path}: this is not JSON`);
  }
  const read = profileShape.safeParse(data);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  const where = issue?.path.length ? `${issue.path.join('.')}: ` : '';
  throw new CliError(`${path}: ${where}${issue?.message ?? 'this does not say how rules run'}`);
}

export interface FileMessage {
  readonly raw: Uint8Array;
  /** The folder and flags of a message, as far as its path in an archive or Maildir tells. */
  readonly folder: string | null;
  readonly flags: readonly string[];
  readonly message: MailMessage;
}

/**
 * The messages of everything that the browser can import: an mbox file, an .eml file, a folder of them, a Maildir
 * folder (names in order), or an archive; some at once. Skipped files are reported. Calls `foundFolder` for each folder
 * of a Maildir, even an empty one.
 */
export async function* readMessages(
  path: string,
  foundFolder: (folder: string) => void = () => {},
): AsyncGenerator<readonly FileMessage[]> {
  const passOver = (passed: PassedOver) => {
    const line = `${passed.path === '' ? path : `${path}/${passed.path}`}: skipped: ${passed.reason}\n`;
    // Messages may be read twice; skipped files are reported once.
    if (!told.has(line)) process.stderr.write(line);
    told.add(line);
  };
  const settings = { name: path, folder: '', progress: () => {}, isEnd: () => false, passOver, foundFolder };
  try {
    for await (const some of mailIn(await localPath(path), settings)) yield some.flatMap(asFileMessage);
  } catch (error) {
    if (error instanceof Unreadable || error instanceof MessageTooLarge)
      throw new CliError(`${path}: ${error.message}`);
    if (error instanceof Error && 'syscall' in error) {
      throw new CliError(`${path}: ${reasonOf(error)}`);
    }
    throw error;
  }
}

const told = new Set<string>();

function asFileMessage({ raw, folder, flags, path }: FoundMail): FileMessage | [] {
  if (raw.length === 0) return [];
  return { raw, folder: folder === '' || path === null ? null : folder, flags, message: readMessage(raw) };
}

const REASONS: Readonly<Record<string, string>> = {
  ENOENT: 'the file does not exist; check the path',
  EISDIR: 'this is a folder; name a file in it',
  EACCES: 'no permission to read the file',
};

const reasonOf = (error: unknown): string =>
  REASONS[codeOf(error)] ?? (error instanceof Error ? error.message : String(error));
