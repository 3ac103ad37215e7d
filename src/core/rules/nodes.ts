import { type Bound, bind } from '../sieve/language/bind';
import { comparatorOf } from '../sieve/language/shared';
import { commands, tests } from '../sieve/language/table';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';
import { print, printTest } from '../sieve/print';
import type { Argument, CommandNode, TestNode } from '../sieve/tree';
import { command, flagStrings, octets, string, strings, tag, testNamed } from './arguments';
import { furtherActionNode, readFurtherAction } from './further-action-nodes';
import { furtherNode, readFurther } from './further-nodes';
import type { Action, AddressPart, LeafTest, TestTree, TextMatch } from './rule';

/** Converts Sieve nodes to the tests and actions of rules and back. Each pair is inverse. */

/** Null if rules have no such test. */
export function readTest(node: TestNode): TestTree | null {
  switch (node.name) {
    case 'allof':
    case 'anyof':
    case 'not': {
      const children = node.tests.map(readTest).filter((child) => child !== null);
      if (children.length < node.tests.length) return null;
      const kind = ({ allof: 'all', anyof: 'any', not: 'none' } as const)[node.name];
      return kind === 'none' ? negationOf(children) : { kind, children };
    }
    case 'true':
      return { kind: 'all', children: [] };
    case 'false':
      return { kind: 'any', children: [] };
    default: {
      const leaf = readLeaf(node);
      return leaf && { kind: 'leaf', test: leaf };
    }
  }
}

/** `not anyof (a, b)` is none of a, b. */
export function negationOf(children: readonly TestTree[]): TestTree {
  const [only] = children;
  const inner = children.length === 1 && only?.kind === 'any' && only.children.length > 0 ? only.children : null;
  return inner ? negationOf(inner) : { kind: 'none', children };
}

function readLeaf(node: TestNode): LeafTest | null {
  const definition = tests.get(node.name);
  if (!definition) return null;
  const { bound, diagnostics } = bind(definition, node);
  if (diagnostics.length > 0) return null;
  const plain = readPlain(node, bound);
  // A test of script state is not a property of the message.
  return plain ?? (definition.touches?.(bound).length ? null : readFurther(node.name, bound));
}

/** Plain tests, as far as they use only the base language. */
function readPlain(node: TestNode, bound: Bound): LeafTest | null {
  const beyond = [...bound.tags.keys()].some((group) => !/^(match-type|comparator|address-part|relation)$/.test(group));
  const match = bound.tag('match-type') ?? 'is';
  const part = bound.tag('address-part') === null ? 'all' : bound.tagAmong('address-part', PARTS);
  if (beyond || !/^(is|contains|matches)$/.test(match) || part === null) return null;
  switch (node.name) {
    case 'header':
      return { test: 'header', headers: bound.strings('header-list'), ...readMatch(bound, 'key-list') };
    case 'address': {
      const headers = bound.strings('header-list');
      return { test: 'address', headers, part, ...readMatch(bound, 'key-list') };
    }
    case 'envelope': {
      const parts = bound.strings('envelope-part').map((name) => name.toLowerCase());
      if (!parts.every((name) => name === 'from' || name === 'to')) return null;
      return { test: 'envelope', parts, part, ...readMatch(bound, 'key-list') };
    }
    case 'exists':
      return { test: 'exists', headers: bound.strings('header-list') };
    case 'size':
      return {
        test: 'size',
        relation: bound.tagAmong('relation', ['over', 'under']) ?? 'over',
        octets: bound.number('limit'),
      };
    case 'hasflag':
      return bound.has('variable-list') ? null : { test: 'hasflag', ...readMatch(bound, 'list-of-flags') };
    default:
      return null;
  }
}

const MATCHES = ['is', 'contains', 'matches'] as const;
const PARTS: readonly AddressPart[] = ['all', 'localpart', 'domain'];

function readMatch(bound: Bound, keys: string): TextMatch {
  const match = bound.tagAmong('match-type', MATCHES) ?? 'is';
  return { match, comparator: comparatorOf(bound), keys: bound.strings(keys) };
}

/** Null if rules have no such action. */
export function readAction(node: CommandNode): Action | null {
  const definition = commands.get(node.name);
  if (!definition) return null;
  const { bound, diagnostics } = bind(definition, node);
  if (diagnostics.length > 0) return null;
  const plain = readPlainAction(node, bound);
  return plain ?? readFurtherAction(node.name, bound);
}

function readPlainAction(node: CommandNode, bound: Bound): Action | null {
  const flags = bound.tag('flags') === null ? null : bound.strings('flags');
  const copy = bound.tag('copy') !== null;
  const create = bound.tag('create') === null ? {} : { create: true as const };
  const beyond = [...bound.tags.keys()].some((group) => group !== 'copy' && group !== 'flags' && group !== 'create');
  if (beyond) return null;
  switch (node.name) {
    case 'keep':
      return { action: 'keep', flags };
    case 'fileinto':
      return { action: 'fileinto', folder: bound.string('mailbox'), copy, flags, ...create };
    case 'redirect':
      return { action: 'redirect', address: bound.string('address'), copy };
    case 'discard':
      return { action: 'discard' };
    case 'setflag':
    case 'addflag':
    case 'removeflag':
      return bound.has('variable') ? null : { action: node.name, flags: bound.strings('list-of-flags') };
    default:
      return null;
  }
}

export function testNode(tree: TestTree): TestNode {
  if (tree.kind === 'leaf') return leafNode(tree.test);
  const children = tree.children.map(testNode);
  switch (tree.kind) {
    case 'all':
      return children.length === 0 ? testNamed('true', []) : testNamed('allof', [], children, true);
    case 'any':
      return children.length === 0 ? testNamed('false', []) : testNamed('anyof', [], children, true);
    case 'none': {
      const [only] = children;
      if (children.length === 0) return testNamed('true', []);
      return testNamed('not', [], [only && children.length === 1 ? only : testNamed('anyof', [], children, true)]);
    }
    default:
      tree satisfies never;
      throw new Error('unknown tree');
  }
}

/** An empty list means that nothing is found. */
const hasEmptyList = (node: TestNode): boolean =>
  node.args.some((argument) => argument.kind === 'string-list' && argument.items.length === 0);

/** Sieve has no empty list (RFC 5228 section 8.2): a test without keys is false, a query for no field is true. */
function leafNode(leaf: LeafTest): TestNode {
  if ('keys' in leaf && leaf.keys.length === 0) return testNamed('false', []);
  if ('headers' in leaf && leaf.headers.length === 0)
    return testNamed(leaf.test.startsWith('exists') ? 'true' : 'false', []);
  switch (leaf.test) {
    case 'header':
      return testNamed('header', [...matchArguments(leaf), strings(leaf.headers), strings(leaf.keys)]);
    case 'address':
      return testNamed('address', [
        ...partArguments(leaf.part),
        ...matchArguments(leaf),
        strings(leaf.headers),
        strings(leaf.keys),
      ]);
    case 'envelope':
      return testNamed('envelope', [
        ...partArguments(leaf.part),
        ...matchArguments(leaf),
        strings(leaf.parts),
        strings(leaf.keys),
      ]);
    case 'exists':
      return testNamed('exists', [strings(leaf.headers)]);
    case 'size':
      return testNamed('size', [tag(leaf.relation), octets(leaf.octets)]);
    case 'hasflag':
      return testNamed('hasflag', [...matchArguments(leaf), strings(leaf.keys)]);
    case 'in-context':
      return leafNode(leaf.meant);
    default: {
      const further = furtherNode(leaf);
      return hasEmptyList(further) ? testNamed('false', []) : further;
    }
  }
}

const words = new WeakMap<LeafTest, string>();

/** A test as a canonical Sieve node: equal for tests of equal meaning. */
export function wordsOfTest(leaf: LeafTest): string {
  const known = words.get(leaf) ?? printTest(leafNode(leaf));
  words.set(leaf, known);
  return known;
}

/** An action as a Sieve node. */
export const wordsOfAction = (action: Action): string =>
  print({ kind: 'script', source: '', commands: [actionNode(action)], trailing: [] }).trimEnd();

export function actionNode(action: Action): CommandNode {
  switch (action.action) {
    case 'keep':
      return command('keep', flagArguments(action.flags));
    case 'fileinto': {
      const copy = action.copy ? [tag('copy')] : [];
      const create = action.create ? [tag('create')] : [];
      return command('fileinto', [...copy, ...create, ...flagArguments(action.flags), string(action.folder)]);
    }
    case 'redirect':
      return command('redirect', [...(action.copy ? [tag('copy')] : []), string(action.address)]);
    case 'discard':
      return command('discard', []);
    case 'setflag':
    case 'addflag':
    case 'removeflag':
      return command(action.action, [flagStrings(action.flags)]);
    default:
      return furtherActionNode(action);
  }
}

/** Comparator and match type are written only if they differ from the defaults. */
function matchArguments({ match, comparator }: TextMatch): Argument[] {
  const given = comparator === DEFAULT_COMPARATOR ? [] : [tag('comparator'), string(comparator)];
  return [...given, tag(match)];
}

const partArguments = (part: AddressPart): Argument[] => (part === 'all' ? [] : [tag(part)]);

const flagArguments = (flags: readonly string[] | null): Argument[] =>
  flags === null ? [] : [tag('flags'), flagStrings(flags)];
