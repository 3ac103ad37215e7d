import type { Chain, ChainEntry, ScriptBlock } from '../rules/rule';
import { canonicalFolder, type Fate, INBOX } from '../sieve/interpret/fate';
import { hasReferences } from '../sieve/interpret/run';
import { parse } from '../sieve/parse';
import { print } from '../sieve/print';
import type { Argument, CommandNode, Statement, TestNode } from '../sieve/tree';
import { elementAt } from '../text/lookup';

/** How folders are called on the server, where they are called otherwise than in the rules. */
export interface FolderNames {
  /** Before every name but that of the inbox. */
  readonly prefix: string;
  /** Between the levels of a name; empty if as in the rules. */
  readonly separator: '' | '/' | '.';
  /** Folders with names of their own, by their name in the rules. */
  readonly renamed: Readonly<Record<string, string>>;
  /** The folders of the server, as far as the user knows them. */
  readonly there: readonly string[];
}

export const SAME_NAMES: FolderNames = { prefix: '', separator: '', renamed: {}, there: [] };

/** The name on the server of a folder of the rules. The inbox is called INBOX everywhere (RFC 3501 section 5.1). */
export function nameThere(name: string, { prefix, separator, renamed }: FolderNames): string {
  const own = Object.hasOwn(renamed, name) ? renamed[name] : undefined;
  if (own !== undefined) return own;
  if (canonicalFolder(name) === INBOX) return name;
  const other = separator === '.' ? '/' : '.';
  const written = separator === '' ? name : name.split(other).join(separator);
  return written.startsWith(prefix) ? written : prefix + written;
}

/** The folders that enabled rules name, sorted. */
export function foldersNamed({ entries }: Chain): string[] {
  const names = new Set<string>();
  const collect = (name: string) => {
    names.add(name);
    return name;
  };
  for (const entry of entries) if (entry.on) withFolders(entry, collect);
  return [...names].sort();
}

/** A chain with other names for its folders; names that variables make (RFC 5229) stay as written. */
export const inFolders = (chain: Chain, nameOf: (name: string) => string): Chain => ({
  ...chain,
  entries: chain.entries.map((entry) => withFolders(entry, nameOf)),
});

function withFolders(entry: ChainEntry, nameOf: (name: string) => string): ChainEntry {
  if (entry.kind === 'script') return inBlock(entry, nameOf);
  const { tests, unless, actions } = entry;
  return { ...entry, tests: over(tests, nameOf), unless: over(unless, nameOf), actions: over(actions, nameOf) };
}

/** The block as written if none of its folders has another name. */
function inBlock(block: ScriptBlock, nameOf: (name: string) => string): ScriptBlock {
  if (!block.works) return block;
  let isChanged = false;
  const named = (argument: Argument): Argument => {
    if (argument.kind === 'string-list')
      return { ...argument, items: argument.items.map((item) => ({ ...item, ...ofText(item.value) })) };
    return argument.kind === 'string' ? { ...argument, ...ofText(argument.value) } : argument;
  };
  const ofText = (value: string) => {
    const name = hasReferences(value) ? value : nameOf(value);
    isChanged ||= name !== value;
    return { value: name };
  };
  const ofArguments = ({ name, args }: CommandNode | TestNode): Argument[] => {
    const place = (NAMING[name] ?? (() => -1))(args);
    return args.map((argument, at) => {
      const before = args[at - 1];
      const isCopy = before?.kind === 'tag' && before.name === 'fcc';
      return at === place || isCopy ? named(argument) : argument;
    });
  };
  const ofTest = (test: TestNode): TestNode => ({ ...test, args: ofArguments(test), tests: test.tests.map(ofTest) });
  const ofStatement = (statement: Statement): Statement => {
    if (statement.kind === 'unreadable') return statement;
    const inner = statement.block && { ...statement.block, commands: statement.block.commands.map(ofStatement) };
    return { ...statement, args: ofArguments(statement), tests: statement.tests.map(ofTest), block: inner };
  };
  const { script } = parse(block.text);
  const commands = script.commands.map(ofStatement);
  return isChanged ? { ...block, text: print({ ...script, source: '', commands }).trimEnd() } : block;
}

const last = (args: readonly Argument[]): number => args.length - 1;

/** Which argument of a command or test names folders. */
const NAMING: Readonly<Record<string, (args: readonly Argument[]) => number>> = {
  fileinto: last,
  mailboxexists: last,
  metadata: (args) => args.length - 3,
  metadataexists: (args) => args.length - 2,
  // The folder may be missing (RFC 8579 section 3).
  specialuse_exists: (args) => args.length - 2,
};

/** Tests and actions call folders `folder` or `folders`, wherever they name some. */
function over<T>(part: T, nameOf: (name: string) => string): T {
  if (Array.isArray(part)) return part.map((one) => over(one, nameOf)) as T;
  if (typeof part !== 'object' || part === null) return part;
  const changed = Object.entries(part).map(([key, value]) => {
    if (key === 'folder' && typeof value === 'string') return [key, nameOf(value)];
    if (key === 'folders' && Array.isArray(value)) return [key, value.map((name) => nameOf(name))];
    return [key, over(value, nameOf)];
  });
  return Object.fromEntries(changed) as T;
}

/** The names of a script's folders on the server, back to those of the rules. */
export class NamesBack {
  readonly #here: ReadonlyMap<string, string>;

  constructor(folders: readonly string[], names: FolderNames) {
    this.#here = new Map(folders.map((name) => [canonicalFolder(nameThere(name, names)), name]));
  }

  of = (name: string): string => this.#here.get(canonicalFolder(name)) ?? name;

  ofFate(fate: Fate): Fate {
    return {
      ...fate,
      deliveries: fate.deliveries.map((one) => ({ ...one, folder: canonicalFolder(this.of(one.folder)) })),
    };
  }
}

/** Names under which two folders of the rules would be one on the server, and those that the server does not have. */
export function faultsOfNames(folders: readonly string[], names: FolderNames) {
  const byName = new Map<string, string[]>();
  for (const folder of folders) {
    const there = canonicalFolder(nameThere(folder, names));
    byName.set(there, [...(byName.get(there) ?? []), folder]);
  }
  const known = new Set(names.there.map(canonicalFolder)).add(INBOX);
  return {
    merged: [...byName].flatMap(([name, own]) => (own.length > 1 ? [{ name, folders: own }] : [])),
    missing: names.there.length === 0 ? [] : [...byName.keys()].filter((name) => !known.has(name)),
  };
}

/** The folder of the server that is meant by a folder of the rules: equal but for case, prefix and separators. */
export function likelyThere(folder: string, there: readonly string[]): string | null {
  const plain = (name: string) =>
    name
      .toLowerCase()
      .split(/[/.\\]/)
      .filter((part) => part !== '');
  const wanted = plain(folder);
  const found = there.filter((name) => {
    const parts = plain(name);
    const own = parts.length > wanted.length && parts[0] === 'inbox' ? parts.slice(1) : parts;
    return own.length === wanted.length && own.every((part, at) => part === wanted[at]);
  });
  return found.includes(folder) ? folder : found.length === 1 ? elementAt(found, 0) : null;
}
