import { comparedWords, furtherActionWords, queryWords } from './further-words';
import type { Action, ChainEntry, LeafTest, Rule, TestTree } from './rule';
import { addressee, caseWords, headerWords, joined, keysWords, quoted } from './words';

/** A rule in plain words: when, unless, then, and whether later rules still run (need N5). */
export function sentenceOf(entry: ChainEntry): string {
  if (entry.kind === 'script') {
    return entry.works
      ? `Script kept word for word, since ${entry.reason}.`
      : `Words kept as they are and not run, since ${entry.reason}.`;
  }
  const parts = [conditionWords(entry), actionsWords(entry), endingWords(entry)];
  return parts.filter((part) => part !== '').join(' ');
}

function conditionWords(rule: Rule): string {
  const otherwise = rule.link === 'otherwise' ? 'otherwise, ' : '';
  const unless = rule.unless.length === 0 ? '' : `, unless ${joined(rule.unless.map(treeWords), 'or')}`;
  const { tests } = rule;
  const whenever = tests.kind === 'all' && tests.children.length === 0;
  const when = whenever ? 'for every message' : `when ${treeWords(tests)}`;
  return `${capital(`${otherwise}${when}`)}${unless}:`;
}

export function actionsWords(rule: Rule): string {
  if (rule.actions.length === 0) return rule.ending === 'stop' ? '' : 'do nothing;';
  return `${joined(rule.actions.map(actionWords), 'and')};`;
}

export const endingWords = (rule: Rule): string =>
  rule.ending === 'stop' ? 'it ends here.' : 'later rules still run.';

export function treeWords(tree: TestTree): string {
  switch (tree.kind) {
    case 'leaf':
      return leafWords(tree.test);
    case 'all':
      return tree.children.length === 0 ? 'anything' : joined(tree.children.map(nestedWords), 'and');
    case 'any':
      return tree.children.length === 0 ? 'nothing at all' : joined(tree.children.map(nestedWords), 'or');
    case 'none':
      return noneWords(tree.children);
    default:
      tree satisfies never;
      throw new Error('unknown tree');
  }
}

const nestedWords = (tree: TestTree): string =>
  tree.kind === 'leaf' || tree.children.length < 2 ? treeWords(tree) : `(${treeWords(tree)})`;

/** A negation in plain words where it is one of simple tests; else the whole is negated. */
function noneWords(children: readonly TestTree[]): string {
  if (children.length === 0) return 'anything';
  const simple = children.flatMap((child) => (child.kind === 'leaf' ? [leafWords(child.test, true)] : []));
  if (simple.length === children.length) return joined(simple, 'and');
  return `it is not so that ${joined(children.map(nestedWords), 'or')}`;
}

/** A single test in words, or its negation. */
export function leafWords(leaf: LeafTest, negated = false): string {
  switch (leaf.test) {
    case 'header':
      return `${headerWords(leaf.headers)} ${matchWords(leaf.match, negated)} ${keysWords(leaf.keys)}${caseWords(leaf.comparator)}`;
    case 'address': {
      const part = { all: 'address', localpart: 'local part', domain: 'domain' }[leaf.part];
      const whose = joined(leaf.headers.map(addressee), 'or');
      return `the ${part} ${whose} ${matchWords(leaf.match, negated)} ${keysWords(leaf.keys)}${caseWords(leaf.comparator)}`;
    }
    case 'envelope': {
      const part = { all: '', localpart: 'local part of the ', domain: 'domain of the ' }[leaf.part];
      const whose = joined(
        leaf.parts.map((name) => ({ from: 'envelope sender', to: 'envelope recipient' })[name]),
        'or',
      );
      return `the ${part}${whose} ${matchWords(leaf.match, negated)} ${keysWords(leaf.keys)}${caseWords(leaf.comparator)}`;
    }
    case 'exists':
      return existsWords(leaf.headers, negated);
    case 'size':
      return `the size is ${negated ? 'not ' : ''}${leaf.relation} ${sizeWords(leaf.octets)}`;
    case 'hasflag':
      return `a flag set so far ${matchWords(leaf.match, negated)} ${keysWords(leaf.keys)}`;
    case 'in-context':
      return leafWords(leaf.meant, negated);
    case 'compared':
      return comparedWords(leaf, negated);
    default:
      return queryWords(leaf, negated);
  }
}

function existsWords(headers: readonly string[], negated: boolean): string {
  const named = joined(headers.map(quoted), 'and');
  if (headers.length === 1) return `there is ${negated ? 'no' : 'a'} header ${named}`;
  return negated ? `not all of the headers ${named} are there` : `there are the headers ${named}`;
}

export function actionWords(action: Action): string {
  switch (action.action) {
    case 'keep':
      return `keep in the inbox${withFlags(action.flags)}`;
    case 'fileinto':
      return `${action.copy ? 'put a copy into' : 'file into'} ${quoted(action.folder)}${action.create ? ', made where there is none' : ''}${withFlags(action.flags)}`;
    case 'redirect':
      return `${action.copy ? 'send a copy to' : 'redirect to'} ${action.address}`;
    case 'discard':
      return 'drop';
    case 'setflag':
      return action.flags.length === 0 ? 'clear all flags' : `mark only as ${flagList(action.flags)}`;
    case 'addflag':
      return `mark as ${flagList(action.flags)}`;
    case 'removeflag':
      return `take away the mark ${flagList(action.flags)}`;
    default:
      return furtherActionWords(action);
  }
}

const matchWords = (match: 'is' | 'contains' | 'matches', negated: boolean): string =>
  negated
    ? { is: 'is not', contains: 'does not contain', matches: 'does not have the form' }[match]
    : { is: 'is', contains: 'contains', matches: 'has the form' }[match];

export function sizeWords(octets: number): string {
  for (const [unit, size] of [
    ['GB', 1024 ** 3],
    ['MB', 1024 ** 2],
    ['KB', 1024],
  ] as const) {
    if (octets >= size) return `${Number((octets / size).toFixed(1))} ${unit}`;
  }
  return `${octets} bytes`;
}

const FLAG_WORDS: Readonly<Record<string, string>> = {
  '\\seen': 'seen',
  '\\flagged': 'flagged',
  '\\answered': 'answered',
  '\\deleted': 'deleted',
  '\\draft': 'draft',
};

export const flagWords = (flag: string): string => FLAG_WORDS[flag.toLowerCase()] ?? quoted(flag);

const flagList = (flags: readonly string[]): string => joined(flags.map(flagWords), 'and');

function withFlags(flags: readonly string[] | null): string {
  if (flags === null) return '';
  return flags.length === 0 || flags.every((flag) => flag === '') ? ' without any mark' : `, marked ${flagList(flags)}`;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
