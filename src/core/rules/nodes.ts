import { type Bound, bind } from '../sieve/language/bind';
import { comparatorOf } from '../sieve/language/shared';
import { commands, tests } from '../sieve/language/table';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';
import { parse } from '../sieve/parse';
import { print, printTest } from '../sieve/print';
import type { Argument, CommandNode, StringArgument, TestNode } from '../sieve/tree';
import type { Action, AddressPart, LeafTest, TestTree, TextMatch } from './rule';

/** Sieve nodes to the tests and actions of rules, and back. Each pair is the other's inverse. */

/** Null where rules have no such test. */
export function readTest(node: TestNode): TestTree | null {
  switch (node.name) {
    case 'allof':
    case 'anyof':
    case 'not': {
      const children = node.tests.map(readTest);
      if (children.some((child) => child === null)) return null;
      const kind = ({ allof: 'all', anyof: 'any', not: 'none' } as const)[node.name];
      return kind === 'none' ? negationOf(children as TestTree[]) : { kind, children: children as TestTree[] };
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
  // What remembers, or looks at what the script has set, is no property of the message alone.
  return plain ?? (definition.touches ? null : { test: 'sieve', text: printTest(node) });
}

/** The tests that rules know by themselves, as far as they use nothing but the base language. */
function readPlain(node: TestNode, bound: Bound): LeafTest | null {
  const beyond = [...bound.tags.keys()].some((group) => !/^(match-type|comparator|address-part|relation)$/.test(group));
  const match = bound.tag('match-type') ?? 'is';
  const part = bound.tag('address-part') ?? 'all';
  if (beyond || !/^(is|contains|matches)$/.test(match) || !/^(all|localpart|domain)$/.test(part)) return null;
  switch (node.name) {
    case 'header':
      return { test: 'header', headers: bound.strings('header-list'), ...readMatch(bound, 'key-list') };
    case 'address': {
      const headers = bound.strings('header-list');
      return { test: 'address', headers, part: part as AddressPart, ...readMatch(bound, 'key-list') };
    }
    case 'envelope': {
      const parts = bound.strings('envelope-part').map((name) => name.toLowerCase());
      if (!parts.every((name) => name === 'from' || name === 'to')) return null;
      return { test: 'envelope', parts, part: part as AddressPart, ...readMatch(bound, 'key-list') };
    }
    case 'exists':
      return { test: 'exists', headers: bound.strings('header-list') };
    case 'size':
      return { test: 'size', relation: bound.tag('relation') as 'over' | 'under', octets: bound.number('limit') };
    case 'hasflag':
      return bound.has('variable-list') ? null : { test: 'hasflag', ...readMatch(bound, 'list-of-flags') };
    default:
      return null;
  }
}

function readMatch(bound: Bound, keys: string): TextMatch {
  const match = (bound.tag('match-type') ?? 'is') as TextMatch['match'];
  return { match, comparator: comparatorOf(bound), keys: bound.strings(keys) };
}

/** Null where rules have no such action. Any action that acts by itself is kept as Sieve and run by the interpreter. */
export function readAction(node: CommandNode): Action | null {
  const definition = commands.get(node.name);
  if (!definition) return null;
  const { bound, diagnostics } = bind(definition, node);
  if (diagnostics.length > 0) return null;
  const plain = readPlainAction(node, bound);
  if (plain || definition.role !== 'action' || definition.touches) return plain;
  return { action: 'sieve', name: node.name, text: printCommand({ ...node, leading: [], inner: [] }) };
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

const NOWHERE = { start: 0, end: 0 };

const printCommand = (node: CommandNode): string =>
  print({ kind: 'script', source: '', commands: [node], trailing: [] }).trimEnd();

export function testNode(tree: TestTree): TestNode {
  if (tree.kind === 'leaf') return leafNode(tree.test);
  const children = tree.children.map(testNode);
  switch (tree.kind) {
    case 'all':
      return children.length === 0 ? node('true', []) : node('allof', [], children, true);
    case 'any':
      return children.length === 0 ? node('false', []) : node('anyof', [], children, true);
    case 'none': {
      const [only] = children;
      if (children.length === 0) return node('true', []);
      return node('not', [], [children.length === 1 ? (only as TestNode) : node('anyof', [], children, true)]);
    }
    default:
      tree satisfies never;
      throw new Error('unknown tree');
  }
}

/** Sieve has no list of nothing (RFC 5228 section 8.2): a test without keys never holds, one that asks for no field always. */
function leafNode(leaf: LeafTest): TestNode {
  if ('keys' in leaf && leaf.keys.length === 0) return node('false', []);
  if ('headers' in leaf && leaf.headers.length === 0) return node(leaf.test === 'exists' ? 'true' : 'false', []);
  switch (leaf.test) {
    case 'header':
      return node('header', [...matchArguments(leaf), strings(leaf.headers), strings(leaf.keys)]);
    case 'address':
      return node('address', [
        ...partArguments(leaf.part),
        ...matchArguments(leaf),
        strings(leaf.headers),
        strings(leaf.keys),
      ]);
    case 'envelope':
      return node('envelope', [
        ...partArguments(leaf.part),
        ...matchArguments(leaf),
        strings(leaf.parts),
        strings(leaf.keys),
      ]);
    case 'exists':
      return node('exists', [strings(leaf.headers)]);
    case 'size':
      return node('size', [tag(leaf.relation), octets(leaf.octets)]);
    case 'hasflag':
      return node('hasflag', [...matchArguments(leaf), strings(leaf.keys)]);
    case 'sieve': {
      const written = writtenTest(leaf.text);
      const isEmpty = written.args.some((argument) => argument.kind === 'string-list' && argument.items.length === 0);
      return isEmpty ? node('false', []) : written;
    }
    default:
      leaf satisfies never;
      throw new Error('unknown test');
  }
}

/** The node of a test that is kept as Sieve. Throws for words that are anything else, such as a test and more behind it. */
export function writtenTest(text: string): TestNode {
  const statement = parse(`if ${text} {}`).script.commands[0];
  const test = statement?.kind === 'command' ? statement.tests[0] : undefined;
  if (!test || printTest(test) !== text) throw new Error(`not a test: ${text}`);
  return test;
}

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
    case 'sieve': {
      const statement = parse(action.text).script.commands[0];
      if (statement?.kind !== 'command' || printCommand(statement) !== action.text) {
        throw new Error(`not an action: ${action.text}`);
      }
      return statement;
    }
    default:
      action satisfies never;
      throw new Error('unknown action');
  }
}

export function command(name: string, args: readonly Argument[]): CommandNode {
  return {
    kind: 'command',
    name,
    args,
    tests: [],
    listed: false,
    block: null,
    leading: [],
    inner: [],
    ...NOWHERE,
  };
}

function node(name: string, args: readonly Argument[], children: readonly TestNode[] = [], listed = false): TestNode {
  return { kind: 'test', name, args, tests: children, listed, ...NOWHERE };
}

/** Comparator and match type are written only where they differ from what the standard assumes. */
function matchArguments({ match, comparator }: TextMatch): Argument[] {
  const given = comparator === DEFAULT_COMPARATOR ? [] : [tag('comparator'), string(comparator)];
  return [...given, tag(match)];
}

const partArguments = (part: AddressPart): Argument[] => (part === 'all' ? [] : [tag(part)]);

const flagArguments = (flags: readonly string[] | null): Argument[] =>
  flags === null ? [] : [tag('flags'), flagStrings(flags)];

/** No flag at all is the empty string (RFC 5232 section 2). */
const flagStrings = (flags: readonly string[]): Argument => strings(flags.length === 0 ? [''] : flags);

const tag = (name: string): Argument => ({ kind: 'tag', name, ...NOWHERE });

const string = (value: string): StringArgument => ({ kind: 'string', value, form: 'quoted', ...NOWHERE });

export function strings(values: readonly string[]): Argument {
  const [only] = values;
  if (values.length === 1) return string(only as string);
  return { kind: 'string-list', items: values.map(string), ...NOWHERE };
}

function octets(value: number): Argument {
  const unit = (
    [
      ['G', 1024 ** 3],
      ['M', 1024 ** 2],
      ['K', 1024],
    ] as const
  ).find(([, size]) => value > 0 && value % size === 0);
  return { kind: 'number', value, quantifier: unit?.[0] ?? null, ...NOWHERE };
}
