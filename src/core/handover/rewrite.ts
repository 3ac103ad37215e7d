import type { Chain, ChainEntry, LeafTest, Rule, TestTree } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { needsOf } from '../sieve/language/needs';
import { type ListNames, referredBy } from './rewriting/extlists';
import { flattened } from './rewriting/nesting';
import { TRANSFORMATIONS } from './rewriting/table';
import { leaf, type RewriteSettings, withTests } from './rewriting/transformation';
import { withoutVariables } from './rewriting/variables';
import { lacking, type Target } from './target';

/** What the user has decided where there is a choice. */
export interface Choices {
  readonly refused: RewriteSettings['refused'];
  /** Rules that are off. */
  readonly off: 'left out' | 'as comments';
  /** What becomes of rules that cannot be said, by their ids; where nothing stands, they are left out. */
  readonly unsayable: Readonly<Record<string, Unsayable>>;
  /** Named lists that the server keeps too, and what they are called there; others are written out. */
  readonly lists: ListNames;
}

/** `without`: the rule without the tests that cannot be said, where others stand beside them. */
export type Unsayable = 'left out' | 'as a comment' | 'without';

export const DEFAULT_CHOICES: Choices = { refused: 'dropped', off: 'left out', unsayable: {}, lists: {} };

/** A chain as it can be said to a target. */
export interface Rewritten {
  readonly chain: Chain;
  /** The same with nothing but what changes no fate: what differs from it is a declared cost. */
  readonly exact: Chain;
  readonly costs: readonly Cost[];
  /** Ids of the entries that stand as comments only. */
  readonly comments: ReadonlySet<string>;
}

/** What is lost of one entry. */
export interface Cost {
  readonly id: string;
  readonly name: string;
  /** The capability that is missing. */
  readonly without: string;
  readonly words: string;
  /**
   * `changed`: it is said in another way. `unsayable`: the user decides what becomes of it, and has or not. `referred`: what it does is
   * up to something on the server.
   */
  readonly kind: 'changed' | 'unsayable' | 'referred';
  readonly decided: Unsayable | null;
  /** What can be decided. */
  readonly ways: readonly Unsayable[];
}

/** Says a chain to a target, entry by entry. */
export function rewriteFor(chain: Chain, target: Target, choices: Choices = DEFAULT_CHOICES): Rewritten {
  const costs: Cost[] = [];
  const comments = new Set<string>();
  const exact: ChainEntry[] = [];
  const entries = chain.entries.map((entry, place) => {
    if (!entry.on) {
      exact.push(entry);
      if (choices.off === 'as comments') comments.add(entry.id);
      return entry;
    }
    const said =
      entry.kind === 'rule'
        ? emptied(entry, ruleFor(entry, target, choices), isLinked(chain, place))
        : blockFor(entry, target, choices);
    costs.push(...said.costs);
    if (said.comment) comments.add(entry.id);
    exact.push(said.costs.length === 0 ? said.entry : entry);
    return said.entry;
  });
  return { chain: { ...chain, entries }, exact: { ...chain, entries: exact }, costs, comments };
}

interface Said {
  /** Off where it is not said at all. */
  readonly entry: ChainEntry;
  readonly costs: readonly Cost[];
  readonly comment: boolean;
}

function ruleFor(rule: Rule, target: Target, choices: Choices): Said {
  let current = rule;
  const costs: Cost[] = [];
  for (const { without, rewrite } of TRANSFORMATIONS) {
    if (!lacks(current, target).includes(without)) continue;
    const rewriting = rewrite(current, { target, refused: choices.refused });
    if (!rewriting) continue;
    current = rewriting.rule;
    if (rewriting.cost !== null) costs.push(changedCost(rule, without, rewriting.cost));
  }
  current = within(current, target);
  for (const name of referredBy(current, listNamesFor(target, choices))) costs.push(referredCost(rule, name));
  const [missing] = lacks(current, target);
  if (missing === undefined) return { entry: current, costs, comment: false };
  const lesser = withoutUnsayable(current, target);
  const ways: Unsayable[] = lesser ? ['left out', 'as a comment', 'without'] : ['left out', 'as a comment'];
  const decided = choices.unsayable[rule.id] ?? null;
  const cost: Cost = { ...unsayableCost(rule, missing), decided, ways };
  if (decided === 'without' && lesser) return { entry: lesser, costs: [...costs, cost], comment: false };
  return { entry: { ...rule, on: false }, costs: [cost], comment: decided === 'as a comment' };
}

/** The lists that a script for the target refers to by name. */
export const listNamesFor = ({ capabilities }: Target, { lists }: Choices): ListNames =>
  capabilities.includes('extlists') ? lists : {};

/** Whether it matters to other rules that this one fires. */
function isLinked({ entries }: Chain, place: number): boolean {
  const [entry, next] = [entries[place], entries[place + 1]];
  return (entry?.kind === 'rule' && entry.link === 'otherwise') || (next?.kind === 'rule' && next.link === 'otherwise');
}

/** A rule that had something to do, has nothing left of it and ends nothing need not be said. */
function emptied(rule: Rule, said: Said, linked: boolean): Said {
  const { entry } = said;
  const isEmpty = entry.kind === 'rule' && entry.on && entry.actions.length === 0 && entry.ending === 'continue';
  return isEmpty && rule.actions.length > 0 && !linked ? { ...said, entry: { ...entry, on: false } } : said;
}

function blockFor(block: Extract<ChainEntry, { kind: 'script' }>, target: Target, choices: Choices): Said {
  if (!block.works) return { entry: block, costs: [], comment: false };
  const said = lacks(block, target).includes('variables') ? (withoutVariables(block) ?? block) : block;
  const [missing] = lacks(said, target);
  if (missing === undefined) return { entry: said, costs: [], comment: false };
  const decided = choices.unsayable[block.id] ?? null;
  const cost: Cost = { ...unsayableCost(block, missing), decided, ways: ['left out', 'as a comment'] };
  return { entry: { ...block, on: false }, costs: [cost], comment: decided === 'as a comment' };
}

const changedCost = ({ id, name }: ChainEntry, without: string, words: string): Cost => {
  return { id, name, without, words, kind: 'changed', decided: null, ways: [] };
};

const referredCost = ({ id, name }: ChainEntry, list: string): Cost => {
  const words = `whom it holds for is up to the list “${list}” that the server keeps`;
  return { id, name, without: 'extlists', words, kind: 'referred', decided: null, ways: [] };
};

const unsayableCost = ({ id, name }: ChainEntry, without: string) =>
  ({
    id,
    name,
    without,
    words: `it cannot be said without ${without}`,
    kind: 'unsayable',
  }) as const;

const known = new WeakMap<ChainEntry, readonly string[]>();

/** The capabilities that an entry needs and a target lacks. */
function lacks(entry: ChainEntry, target: Target): string[] {
  const all = known.get(entry) ?? needsOfEntry(entry);
  known.set(entry, all);
  return lacking(target, all);
}

function needsOfEntry(entry: ChainEntry): string[] {
  const alone: Chain = {
    entries: [entry.kind === 'rule' ? { ...entry, on: true, link: 'always' } : entry],
    closing: '',
  };
  const required = entry.kind === 'script' ? entry.requires : [];
  return [...required, ...sieveFromChain(alone).script.commands.flatMap(needsOf)];
}

/** Without the alternatives and exceptions that cannot be said; null where that leaves nothing to test for. */
function withoutUnsayable(rule: Rule, target: Target): Rule | null {
  const isSaid = (tree: TestTree) =>
    lacks({ ...rule, id: '', tests: tree, unless: [], actions: [] }, target).length === 0;
  const tests = lesser(rule.tests, isSaid);
  if (!tests) return null;
  const left: Rule = { ...rule, tests, unless: rule.unless.filter(isSaid) };
  return lacks(left, target).length === 0 ? left : null;
}

function lesser(tree: TestTree, isSaid: (tree: TestTree) => boolean): TestTree | null {
  if (isSaid(tree)) return tree;
  if (tree.kind !== 'any') return null;
  const children = tree.children.flatMap((child) => lesser(child, isSaid) ?? []);
  return children.length === 0 ? null : { ...tree, children };
}

/**
 * A rule whose tests have no longer lists, and are nested no deeper, than a target takes.
 */
function within(rule: Rule, { limits }: Target): Rule {
  const most = limits.strings;
  const short = most === null ? rule : (withTests(rule, (test) => split(test, most)) ?? rule);
  return flattened(short, limits.nesting);
}

/** A field of several lists holds a test when any of several tests with parts of the lists does; of `exists`, all must. */
function split(test: LeafTest, most: number): TestTree {
  if (test.test === 'exists') {
    const parts = chunked(test.headers, most).map((headers) => leaf({ ...test, headers }));
    return parts.length > 1 ? { kind: 'all', children: parts } : leaf(test);
  }
  if (!('keys' in test)) return leaf(test);
  const { list: _list, ...own } = test;
  const byKeys = chunked(test.keys, most).map((keys) => ({ ...own, keys }) as LeafTest);
  const parts = byKeys.flatMap((part): LeafTest[] => {
    if ('headers' in part) return chunked(part.headers, most).map((headers) => ({ ...part, headers }));
    return 'parts' in part ? chunked(part.parts, most).map((parts) => ({ ...part, parts })) : [part];
  });
  return parts.length > 1 ? { kind: 'any', children: parts.map(leaf) } : leaf(test);
}

function chunked<T>(all: readonly T[], most: number): T[][] {
  const parts = Array.from({ length: Math.ceil(all.length / most) }, (_, at) => all.slice(at * most, (at + 1) * most));
  return parts.length > 0 ? parts : [[...all]];
}
