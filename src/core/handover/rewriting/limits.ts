import type { Action, LeafTest, Rule, TestTree } from '../../rules/rule';
import type { CommandNode, Statement, TestNode } from '../../sieve/tree';
import type { Limits } from '../target';
import { type ListNames, maybeName } from './extlists';
import { flattened } from './nesting';
import { leaf, withActions, withTests } from './transformation';

/** A rule with lists and nesting within the limits of a server, as far as possible. Every message is treated alike. */
export function withinLimits(rule: Rule, { strings, nesting }: Limits, names: ListNames): Rule {
  if (strings === null) return flattened(rule, nesting);
  // A test of an external list has one key, whatever the list contains.
  const short = withTests(rule, (test) => (maybeName(test, names) === null ? split(test, strings) : leaf(test)));
  return flattened(
    withActions(short ?? rule, (action) => splitFlags(action, strings)),
    nesting,
  );
}

/**
 * Splits lists: any of several tests with parts of the lists is equivalent to one with the whole lists; for `exists`,
 * all of them.
 */
function split(test: LeafTest, most: number): TestTree {
  if (test.test === 'exists') {
    const parts = chunked(test.headers, most).map((headers) => leaf({ ...test, headers }));
    return parts.length > 1 ? { kind: 'all', children: parts } : leaf(test);
  }
  if (!('keys' in test)) return leaf(test);
  const { list: _list, ...own } = test;
  const byKeys = chunked(test.keys, most).map((keys) => ({ ...own, keys }));
  const parts = byKeys.flatMap((part): LeafTest[] => {
    if ('headers' in part) return chunked(part.headers, most).map((headers) => ({ ...part, headers }));
    return 'parts' in part ? chunked(part.parts, most).map((parts) => ({ ...part, parts })) : [part];
  });
  return parts.length > 1 ? { kind: 'any', children: parts.map(leaf) } : leaf(test);
}

/** The first action sets flags and the others add to them (RFC 5232 section 3). */
function splitFlags(action: Action, most: number): readonly Action[] {
  if (action.action !== 'setflag' && action.action !== 'addflag' && action.action !== 'removeflag') return [action];
  return chunked(action.flags, most).map((flags, at) =>
    action.action === 'setflag' && at > 0 ? { action: 'addflag', flags } : { ...action, flags },
  );
}

/** A list in parts of this size; an empty list is one part. */
function chunked<T>(all: readonly T[], most: number): T[][] {
  const parts = Array.from({ length: Math.ceil(all.length / most) }, (_, at) => all.slice(at * most, (at + 1) * most));
  return parts.length > 0 ? parts : [[]];
}

/** What exceeds the limits of a server in a rule or script block, in plain words, or null. */
export function beyondLimits(written: readonly Statement[], { strings, nesting, redirects }: Limits): string | null {
  if (strings !== null && longestIn(written) > strings)
    return `it has a list with more than the ${strings} strings that the server accepts`;
  if (nesting !== null && deepestIn(written) > nesting)
    return `its tests are nested deeper than the ${nesting} levels that the server accepts`;
  if (redirects !== null && redirectsIn(written) > redirects)
    return 'it redirects to more addresses than the server allows';
  return null;
}

const commandsOf = (statements: readonly Statement[]): CommandNode[] =>
  statements.flatMap((one) => (one.kind === 'command' ? [one, ...commandsOf(one.block?.commands ?? [])] : []));

const testsOf = (tests: readonly TestNode[]): TestNode[] => tests.flatMap((test) => [test, ...testsOf(test.tests)]);

function longestIn(statements: readonly Statement[]): number {
  const nodes = commandsOf(statements).flatMap((command) => [command, ...testsOf(command.tests)]);
  const lists = nodes.flatMap(({ args }) => args.flatMap((arg) => (arg.kind === 'string-list' ? [arg.items] : [])));
  return lists.reduce((longest, { length }) => Math.max(longest, length), 0);
}

function deepestIn(statements: readonly Statement[]): number {
  const depthOf = (tests: readonly TestNode[]): number =>
    tests.reduce((deepest, test) => Math.max(deepest, 1 + depthOf(test.tests)), 0);
  return commandsOf(statements).reduce((deepest, { tests }) => Math.max(deepest, depthOf(tests)), 0);
}

/** Redirects that act together: those next to each other in a block. */
function redirectsIn(statements: readonly Statement[]): number {
  const here = statements.filter((one) => one.kind === 'command' && one.name === 'redirect').length;
  const inner = statements.map((one) => (one.kind === 'command' && one.block ? redirectsIn(one.block.commands) : 0));
  return inner.reduce((most, redirects) => Math.max(most, redirects), here);
}
