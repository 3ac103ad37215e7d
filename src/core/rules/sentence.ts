import { figure } from '../text/figure';
import { comparedWords, furtherActionWords, queryWords } from './further-words';
import type { Profile } from './profile';
import type { Action, ChainEntry, Ending, LeafTest, Rule, TestTree } from './rule';
import {
  addressSubject,
  caseWords,
  fieldNames,
  filingWords,
  joined,
  joinedTests,
  matchWords,
  presentWords,
  quoted,
} from './words';

/**
 * A rule in plain words: when, unless, then, and whether later rules still run (need N5), unless its program decides
 * that for all rules alike.
 */
export function sentenceOf(entry: ChainEntry, profile?: Profile): string {
  if (entry.kind === 'script') {
    return entry.works
      ? `Sieve kept word for word: ${entry.reason}.`
      : `Kept word for word and not run: ${entry.reason}.`;
  }
  return `${conditionWords(entry)} ${actionsWords(entry, profile)}`;
}

/** When a rule acts: “When the subject contains “oak”, unless …:” */
export function conditionWords(rule: Rule): string {
  const otherwise = rule.link === 'otherwise' ? 'otherwise, ' : '';
  const unless =
    rule.unless.length === 0
      ? ''
      : `, unless ${joinedTests(
          rule.unless.map((tree) => treeWords(tree)),
          'or',
        )}`;
  const { tests } = rule;
  const whenever = tests.kind === 'all' && tests.children.length === 0;
  const when = whenever ? 'for every message' : `when ${treeWords(tests)}`;
  return `${capital(`${otherwise}${when}`)}${unless}:`;
}

/** What a rule does, up to its ending: “file into “Oak”, then stop.” */
export function actionsWords({ actions, ending }: Rule, profile?: Profile): string {
  const said = joined(actions.map(actionWords), 'and');
  return profile && profile.ending !== 'rule' ? `${said || 'do nothing'}.` : endingWords(said, ending);
}

/** What a rule does, in words, with its ending. */
export function endingWords(said: string, ending: Ending): string {
  if (said === '') return ending === 'stop' ? 'stop.' : 'do nothing; later rules still run.';
  return `${said}${ending === 'stop' ? ', then stop.' : '; later rules still run.'}`;
}

/**
 * A condition, or its negation, which is pushed down to the single tests (De Morgan), so that no sentence negates a
 * whole.
 */
export function treeWords(tree: TestTree, negated = false): string {
  if (tree.kind === 'leaf') return leafWords(tree.test, negated);
  const { children } = tree;
  const [only] = children;
  const isDenied = negated !== (tree.kind === 'none');
  if (only && children.length === 1) return treeWords(only, isDenied);
  const conjunction = conjunctionOf(tree, negated);
  if (!only) return conjunction === 'and' ? 'every message matches' : 'no message matches';
  return joinedTests(
    children.map((child) => nestedWords(child, isDenied, conjunction)),
    conjunction,
  );
}

type Branch = Exclude<TestTree, { kind: 'leaf' }>;

/** `all` reads as “and”, `any` as “or”; a negated one reads as the other. */
function conjunctionOf({ kind }: Branch, negated: boolean): 'and' | 'or' {
  const isDenied = negated !== (kind === 'none');
  return (kind !== 'all') === isDenied ? 'and' : 'or';
}

/** Adds brackets if the inner conjunction differs from the outer one. */
function nestedWords(tree: TestTree, negated: boolean, around: 'and' | 'or'): string {
  const words = treeWords(tree, negated);
  if (tree.kind === 'leaf') return words;
  const [only] = tree.children;
  if (only && tree.children.length === 1) return nestedWords(only, negated !== (tree.kind === 'none'), around);
  return !only || conjunctionOf(tree, negated) === around ? words : `(${words})`;
}

/** A single test in words, or its negation. */
export function leafWords(leaf: LeafTest, negated = false): string {
  switch (leaf.test) {
    case 'header':
      return matchedWords(fieldNames(leaf.headers, 'or'), leaf, negated);
    case 'address':
      return matchedWords(addressSubject(ADDRESS_PARTS[leaf.part], leaf.headers), leaf, negated);
    case 'envelope': {
      const part = { all: '', localpart: 'local part of the ', domain: 'domain of the ' }[leaf.part];
      const whose = joined(
        leaf.parts.map((name) => ({ from: 'envelope sender', to: 'envelope recipient' })[name]),
        'or',
      );
      return matchedWords(`the ${part}${whose}`, leaf, negated);
    }
    case 'exists':
      return presentWords(leaf.headers, '', negated);
    case 'size':
      return `the message is ${SIZE_WORDS[leaf.relation][negated ? 'denied' : 'said']} ${sizeWords(leaf.octets)}`;
    case 'hasflag':
      return matchWords('a flag set by an earlier rule', leaf.match, leaf.keys.map(flagWords), negated);
    case 'in-context':
      return leafWords(leaf.meant, negated);
    case 'compared':
      return comparedWords(leaf, negated);
    default:
      return queryWords(leaf, negated);
  }
}

const ADDRESS_PARTS = { all: 'address', localpart: 'local part', domain: 'domain' } as const;

/** `size` compares strictly (RFC 5228 section 5.9), so “not over” means “at most”. */
const SIZE_WORDS = {
  over: { said: 'larger than', denied: 'at most' },
  under: { said: 'smaller than', denied: 'at least' },
} as const;

type Matched = Extract<LeafTest, { test: 'header' | 'address' | 'envelope' }>;

const matchedWords = (subject: string, { match, keys, comparator }: Matched, negated: boolean): string =>
  matchWords(subject, match, keys.map(quoted), negated) + caseWords(comparator);

export function actionWords(action: Action): string {
  switch (action.action) {
    case 'keep':
      return `keep in the inbox${withFlags(action.flags)}`;
    case 'fileinto':
      return `${filingWords(action.copy)} ${quoted(action.folder)}${action.create ? ', creating it if it is missing' : ''}${withFlags(action.flags)}`;
    case 'redirect':
      return `${action.copy ? 'redirect a copy to' : 'redirect to'} ${action.address}`;
    case 'discard':
      return 'discard';
    case 'setflag':
      return action.flags.length === 0 ? 'clear all flags' : `mark as ${flagList(action.flags)} only`;
    case 'addflag':
      return `mark as ${flagList(action.flags)}`;
    case 'removeflag':
      return `remove the ${action.flags.length > 1 ? 'flags' : 'flag'} ${flagList(action.flags)}`;
    default:
      return furtherActionWords(action);
  }
}

/** An exact size: `1.5 MB`, but `1,500,000 bytes`. */
export function sizeWords(octets: number): string {
  for (const [unit, size] of [
    ['GB', 1024 ** 3],
    ['MB', 1024 ** 2],
    ['KB', 1024],
  ] as const) {
    const tenths = (octets * 10) / size;
    if (octets >= size && Number.isInteger(tenths)) return `${figure(tenths / 10)} ${unit}`;
  }
  return octets === 1 ? '1 byte' : `${figure(octets)} bytes`;
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
  return flags.length === 0 || flags.every((flag) => flag === '') ? ' without flags' : `, marked ${flagList(flags)}`;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
