import { printTest } from '../../sieve/print';
import { actionsText } from '../as-written';
import { markedName } from '../marks';
import { testNode } from '../nodes';
import type { Action, LeafTest, Rule, TestTree } from '../rule';
import { isSame } from '../same';
import { actionWords, conditionWords, endingWords } from '../sentence';
import { joined, quoted } from '../words';
import { readTold } from './read';

/** What a line says in words; the rest is Sieve within it. */
interface Forms {
  readonly tests: boolean;
  readonly unless: boolean;
  readonly actions: boolean;
  /** Whether the name needs no quotation marks. */
  readonly name: boolean;
}

const PARTS = ['tests', 'unless', 'actions', 'name'] as const;
const NO_WORDS: Forms = { tests: false, unless: false, actions: false, name: false };

/**
 * A rule in one line that `readTold` reads as the same rule: its name, and its sentence with all keys. Parts that words
 * do not say in full are Sieve within the sentence. The note and the tags are left out.
 */
export function toldLine(rule: Rule): string {
  const forms = PARTS.map((part) => [part, readsAs(written(rule, { ...NO_WORDS, [part]: true }), part, rule)]);
  const line = written(rule, { ...NO_WORDS, ...Object.fromEntries(forms) });
  return PARTS.every((part) => readsAs(line, part, rule)) ? line : written(rule, NO_WORDS);
}

const NOBODY = { me: [], folders: [] };

/** Whether a part of a rule is read from a line as it is. */
function readsAs(line: string, part: keyof Forms, rule: Rule): boolean {
  const read = /[\r\n]/.test(line) ? null : readTold(line, rule.id, NOBODY);
  if (!read || read.unread.length > 0 || read.remarks.length > 0) return false;
  const { rule: found } = read;
  switch (part) {
    case 'name': {
      // What was read as a test may have named the rule as well.
      const isApart = PARTS.every((other) => other === part || readsAs(line, other, rule));
      return isApart && found.name === rule.name && found.on === rule.on;
    }
    case 'tests':
      return isSameCondition([found.tests], [rule.tests]);
    case 'unless':
      return isSameCondition(found.unless, rule.unless);
    case 'actions':
      return isSame(found.actions.map(plain), rule.actions.map(plain)) && found.ending === rule.ending;
    default:
      part satisfies never;
      return false;
  }
}

function written(rule: Rule, { tests, unless, actions, name }: Forms): string {
  const marked = markedName(rule);
  const mark = marked.slice(0, marked.length - rule.name.length);
  const places = new Map<string, string>();
  const shown: Rule = {
    ...rule,
    tests: tests || isEvery(rule.tests) ? withAllKeys(rule.tests, places) : sieveLeaf(rule.tests, places),
    unless:
      unless || rule.unless.length === 0
        ? rule.unless.map((tree) => withAllKeys(tree, places))
        : [sieveLeaf({ kind: 'any', children: rule.unless }, places)],
  };
  const does = actions
    ? joined(rule.actions.map(toldAction), 'and')
    : rule.actions.length > 0 && `follow the Sieve ${JSON.stringify(actionsText(rule.actions).trim())}`;
  const before = `${name ? marked : `${mark}${JSON.stringify(rule.name)}`}: `;
  return `${before}${filled(conditionWords(shown), places)} ${endingWords(does || '', rule.ending)}`;
}

const isEvery = ({ kind, ...tree }: TestTree): boolean =>
  kind === 'all' && 'children' in tree && tree.children.length === 0;

/** The words of actions leave out texts that are sent. */
function toldAction(action: Action): string {
  if (action.action === 'vacation') return `send the automatic reply ${quoted(action.reason)}`;
  if (action.action === 'reject') return `reject with the text ${quoted(action.reason)}`;
  return actionWords(action);
}

const MOST_SHOWN = 4;
const COMPARATOR = 'i;ascii-casemap';

/** Sentences shorten long lists of keys, so one key stands for them; its place in the sentence is filled later. */
function withAllKeys(tree: TestTree, places: Map<string, string>): TestTree {
  if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map((child) => withAllKeys(child, places)) };
  const { test } = tree;
  if (test.test === 'compared' && test.by.keys.length > MOST_SHOWN && !('relation' in test.by)) {
    return { kind: 'leaf', test: { ...test, by: { ...test.by, keys: [place(test.by.keys, places)] } } };
  }
  if (test.test === 'compared' || !('keys' in test) || test.keys.length <= MOST_SHOWN) return tree;
  return { kind: 'leaf', test: { ...test, keys: [place(test.keys, places)] } };
}

function place(keys: readonly string[], places: Map<string, string>): string {
  const key = `\u{e000}${places.size}\u{e001}`;
  places.set(quoted(key), joined(keys.map(quoted), 'or'));
  return key;
}

/** A test whose words are replaced by Sieve. */
function sieveLeaf(tree: TestTree, places: Map<string, string>): TestTree {
  const key = `\u{e000}${places.size}\u{e001}`;
  places.set(`the subject is ${quoted(key)}`, `the Sieve test ${JSON.stringify(printTest(testNode(tree)))} matches`);
  const test: LeafTest = { test: 'header', headers: ['subject'], match: 'is', comparator: COMPARATOR, keys: [key] };
  return { kind: 'leaf', test };
}

function filled(sentence: string, places: ReadonlyMap<string, string>): string {
  let text = sentence;
  for (const [from, to] of places) text = text.split(from).join(to);
  return text;
}

/** Whether two conditions have the same tests, joined and negated alike, whatever groups they are in. */
function isSameCondition(a: readonly TestTree[], b: readonly TestTree[]): boolean {
  const [first, second] = [a, b].map((children) => pushed({ kind: 'any', children }, false));
  return isSame(first, second);
}

interface Pushed {
  readonly joins: 'and' | 'or';
  readonly members: readonly (Pushed | { readonly test: LeafTest; readonly denied: boolean })[];
}

/** Negations pushed down to tests (De Morgan), groups of one and groups within alike groups dissolved. */
function pushed(tree: TestTree, denied: boolean): Pushed | Pushed['members'][number] {
  if (tree.kind === 'leaf') return { test: plainTest(tree.test), denied };
  const isDenied = denied !== (tree.kind === 'none');
  const joins = (tree.kind !== 'all') === isDenied ? 'and' : 'or';
  const members = tree.children.flatMap((child) => {
    const member = pushed(child, isDenied);
    return 'joins' in member && member.joins === joins ? member.members : [member];
  });
  const [only] = members;
  return only && members.length === 1 ? only : { joins, members };
}

/** Names of fields are the same in any case, and once is as good as twice. */
function plainTest(test: LeafTest): LeafTest {
  const lowered = (names: readonly string[]) => [...new Set(names.map((name) => name.toLowerCase()))];
  if ('headers' in test) return { ...test, headers: lowered(test.headers) };
  if (test.test !== 'compared' || !('headers' in test.subject)) return test;
  return { ...test, subject: { ...test.subject, headers: lowered(test.subject.headers) } };
}

/** Flags of the standard are the same in any case (RFC 9051 section 2.3.2). */
function plain(action: Action): Action {
  if (!('flags' in action) || !action.flags) return action;
  return { ...action, flags: action.flags.map((flag) => (flag.startsWith('\\') ? flag.toLowerCase() : flag)) };
}
