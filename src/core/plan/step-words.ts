import { applyEdit, type Edit } from '../rules/edit';
import { editWords } from '../rules/edit-words';
import { type Chain, type LeafTest, leavesOf, type Rule, type TestTree } from '../rules/rule';
import { isSame } from '../rules/same';
import { actionsWords, conditionWords, sentenceOf, treeWords } from '../rules/sentence';
import { joined, quoted } from '../rules/words';

/** What a step does, so that it can be agreed to without opening it; `chain` is the one its edits were made for. */
export function stepWords(chain: Chain, edits: readonly Edit[]): string {
  const words: string[] = [];
  let current = chain;
  for (const edit of edits) {
    words.push(wordsOf(current, edit));
    const applied = applyEdit(current, edit);
    if (applied.ok) current = applied.chain;
  }
  const [first = '', ...others] = words;
  return [first, ...others.map(within)].join('; ');
}

function wordsOf(chain: Chain, edit: Edit): string {
  if (edit.kind !== 'rewrite') return editWords(chain, edit);
  const [before, after] = [edit.before, edit.after];
  const [old, made] = [before[0], after[0]];
  if (before.length === 0 && after.length === 1 && made?.kind === 'rule') return addedWords(made);
  if (before.length === 1 && after.length === 1 && old?.kind === 'rule' && made?.kind === 'rule') {
    return changedWords(old, made) ?? editWords(chain, edit);
  }
  return editWords(chain, edit);
}

/** A sentence of a rule, to be a part of another. */
const within = (sentence: string): string => sentence.charAt(0).toLowerCase() + sentence.slice(1).replace(/[.:]$/, '');

const addedWords = (rule: Rule): string => `Add a rule: ${within(sentenceOf(rule))}`;

/** Null if more than one part of the rule changes, or its name. */
function changedWords(old: Rule, made: Rule): string | null {
  const name = quoted(old.name);
  const isOnly = (part: 'tests' | 'unless' | 'actions') => isSame({ ...old, [part]: made[part] }, made);
  if (isOnly('unless')) {
    const [added, gone] = [missingIn(old.unless, made.unless), missingIn(made.unless, old.unless)];
    const exempt = added.map((tree) => treeWords(tree)).join(', or where ');
    if (gone.length === 0) return `Exempt mail from ${name} where ${exempt}`;
    if (added.length === 0)
      return `Remove the exception from ${name} where ${gone.map((tree) => treeWords(tree)).join(', or where ')}`;
    const keys = keysBetween({ kind: 'any', children: gone }, { kind: 'any', children: added });
    return keys && keys.added.length > 0 && keys.gone.length === 0
      ? `Exempt ${joined(keys.added.map(quoted), 'and')} from ${name} too`
      : `Exempt mail from ${name} where ${exempt}`;
  }
  if (isOnly('actions')) return `Let ${name} ${within(actionsWords(made))}`;
  if (!isOnly('tests')) return null;
  const keys = keysBetween(old.tests, made.tests);
  if (keys && keys.gone.length === 0) return `Let ${name} match ${joined(keys.added.map(quoted), 'and')} too`;
  if (keys && keys.added.length === 0) return `Let ${name} no longer match ${joined(keys.gone.map(quoted), 'or')}`;
  return `Let ${name} act ${within(conditionWords(made))}`;
}

const missingIn = (trees: readonly TestTree[], others: readonly TestTree[]): TestTree[] =>
  others.filter((one) => !trees.some((other) => isSame(one, other)));

/** The keys by which two conditions differ; null if they differ in anything else. */
function keysBetween(a: TestTree, b: TestTree): { readonly added: string[]; readonly gone: string[] } | null {
  const without = (tree: TestTree): TestTree =>
    tree.kind === 'leaf'
      ? { kind: 'leaf', test: withoutKeys(tree.test) }
      : { ...tree, children: tree.children.map(without) };
  if (!isSame(without(a), without(b))) return null;
  const [before, after] = [keysOf(a), keysOf(b)];
  const added = after.filter((key) => !before.includes(key));
  const gone = before.filter((key) => !after.includes(key));
  return added.length + gone.length === 0 ? null : { added, gone };
}

const withoutKeys = (test: LeafTest): LeafTest => ('keys' in test ? { ...test, keys: [] } : test);
const keysOf = (tree: TestTree): readonly string[] =>
  leavesOf(tree).flatMap((test) => ('keys' in test ? test.keys : []));
