import type { Chain, ChainEntry } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import type { CommandNode, Script, Statement, TestNode } from '../sieve/tree';
import { type Choices, listNamesFor, type Rewritten, rewriteFor } from './rewrite';
import { listsAsHere, referring } from './rewriting/extlists';
import type { Target } from './target';
import { requiresOf } from './verify';

/** A script for a target, with what it costs to say it so. */
export interface Prepared extends Rewritten {
  readonly text: string;
  readonly octets: number;
  readonly requires: readonly string[];
  /** What is beyond the limits of the target, in plain words; nothing can be handed over while there is any. */
  readonly beyond: readonly string[];
  /** What the lists that it refers to are taken to hold. */
  readonly lists: ReadonlyMap<string, ReadonlySet<string>>;
  /** Folders that the script files into, which a server need not make by itself. */
  readonly folders: readonly string[];
}

export function prepareScript(chain: Chain, target: Target, choices: Choices): Prepared {
  const rewritten = rewriteFor(chain, target, choices);
  const names = listNamesFor(target, choices);
  const { script, text, entryOf } = sieveFromChain(referring(rewritten.chain, names), 'export', {
    comments: rewritten.comments,
    sentences: true,
  });
  const octets = new TextEncoder().encode(text).length;
  return {
    ...rewritten,
    text,
    octets,
    requires: requiresOf(script),
    beyond: [
      ...beyondLimits(rewritten.chain, octets, target),
      ...tooLong(script, entryOf, target),
      ...tooDeep(entryOf, target),
    ],
    lists: listsAsHere(chain.lists ?? [], names),
    folders: foldersOf(rewritten.chain),
  };
}

function beyondLimits(chain: Chain, octets: number, { limits }: Target): string[] {
  const said: string[] = [];
  if (limits.octets !== null && octets > limits.octets) {
    said.push(`the script takes ${octets} bytes, and the server takes ${limits.octets}`);
  }
  const most = limits.redirects;
  const redirecting = chain.entries.filter(
    (entry) =>
      entry.kind === 'rule' &&
      entry.on &&
      most !== null &&
      entry.actions.filter(({ action }) => action === 'redirect').length > most,
  );
  for (const { name } of redirecting) said.push(`“${name}” redirects to more addresses than the server allows`);
  return said;
}

/** What has lists that could not be split: those of actions, of what is kept word for word, and of `require`. */
function tooLong(
  script: Script,
  entryOf: ReadonlyMap<Statement, ChainEntry>,
  { limits: { strings } }: Target,
): string[] {
  if (strings === null) return [];
  const long = script.commands.filter((command) => longestIn(command) > strings);
  const names = long.map((command) => entryOf.get(command)?.name);
  return [...new Set(names)].map(
    (name) =>
      `${name === undefined ? '“require”' : `“${name}”`} has a list of more than the ${strings} strings that the server takes`,
  );
}

/** The strings in the longest list of a statement. */
function longestIn(statement: Statement): number {
  if (statement.kind === 'unreadable') return 0;
  const ofArgs = (args: CommandNode['args']) =>
    Math.max(0, ...args.map((arg) => (arg.kind === 'string-list' ? arg.items.length : 0)));
  const ofTest = ({ args, tests }: TestNode): number => Math.max(ofArgs(args), ...tests.map(ofTest));
  const inner = (statement.block?.commands ?? []).map(longestIn);
  return Math.max(ofArgs(statement.args), ...statement.tests.map(ofTest), ...inner);
}

/** Entries whose tests could not be written flat enough. */
function tooDeep(entryOf: ReadonlyMap<Statement, ChainEntry>, { limits: { nesting } }: Target): string[] {
  if (nesting === null) return [];
  const deep = [...entryOf].flatMap(([statement, { name }]) => (depthIn(statement) > nesting ? [name] : []));
  return [...new Set(deep)].map(
    (name) => `“${name}” nests tests deeper than the ${nesting} levels that the server takes`,
  );
}

function depthIn(statement: Statement): number {
  if (statement.kind === 'unreadable') return 0;
  const ofTests = (tests: CommandNode['tests']): number =>
    tests.reduce((deepest, test) => Math.max(deepest, 1 + ofTests(test.tests)), 0);
  const inner = (statement.block?.commands ?? []).map(depthIn);
  return Math.max(ofTests(statement.tests), ...inner);
}

function foldersOf({ entries }: Chain): string[] {
  const named = entries.flatMap((entry) =>
    entry.kind === 'rule' && entry.on
      ? entry.actions.flatMap((action) => (action.action === 'fileinto' ? [action.folder] : []))
      : [],
  );
  return [...new Set(named)].sort();
}
