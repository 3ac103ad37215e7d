import { dependentsOn } from '../rules/context';
import { inSieve } from '../rules/profile';
import type { Chain, ChainEntry, Rule, ScriptBlock, TestTree } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { needsOf } from '../sieve/language/needs';
import type { Statement } from '../sieve/tree';
import { type FolderNames, SAME_NAMES } from './folder-names';
import { type ListNames, referredBy, referring } from './rewriting/extlists';
import { beyondLimits, withinLimits } from './rewriting/limits';
import { TRANSFORMATIONS } from './rewriting/table';
import type { RewriteSettings } from './rewriting/transformation';
import { constantsOf, withoutVariables } from './rewriting/variables';
import { lacking, type Target } from './target';

/** The user's decisions. */
export interface Choices {
  readonly refused: RewriteSettings['refused'];
  /** For rules that are off. */
  readonly off: 'left out' | 'as comments';
  /** For rules that are not portable, by id; by default they are left out. */
  readonly unsayable: Readonly<Record<string, Unsayable>>;
  /** Named lists that the server keeps too, with their names there; others are written out. */
  readonly lists: ListNames;
  /** How folders are called on the server. */
  readonly folders: FolderNames;
}

/** `without`: the rule without its unsupported tests, if others remain. */
export type Unsayable = 'left out' | 'as a comment' | 'without';

export const DEFAULT_CHOICES: Choices = {
  refused: 'dropped',
  off: 'left out',
  unsayable: {},
  lists: {},
  folders: SAME_NAMES,
};

/** A chain rewritten for a target. */
export interface Rewritten {
  readonly chain: Chain;
  /** The same with only the rewritings that change no fate: any other deviation must be a declared difference. */
  readonly exact: Chain;
  readonly costs: readonly Cost[];
  /** Ids of entries that become comments. */
  readonly comments: ReadonlySet<string>;
}

/** The difference of one entry. */
export interface Cost {
  readonly id: string;
  readonly name: string;
  /** The missing capability; empty if a limit of the server is exceeded. */
  readonly without: string;
  readonly words: string;
  /**
   * `changed`: expressed in another way. `unsayable`: the user decides, or has decided. `referred`: its effect depends
   * on the server.
   */
  readonly kind: 'changed' | 'unsayable' | 'referred';
  readonly decided: Unsayable | null;
  /** The possible decisions. */
  readonly ways: readonly Unsayable[];
}

/** Rewrites a chain for a target, entry by entry; one with a profile, as it is in Sieve. */
export function rewriteFor(given: Chain, target: Target, choices: Choices = DEFAULT_CHOICES): Rewritten {
  const { chain } = inSieve(given);
  const costs: Cost[] = [];
  const comments = new Set<string>();
  const exact: ChainEntry[] = [];
  const constants = constantsOf(chain);
  const entries = chain.entries.map((entry, place) => {
    if (!entry.on) {
      exact.push(entry);
      if (choices.off === 'as comments') comments.add(entry.id);
      return entry;
    }
    const said =
      entry.kind === 'rule'
        ? emptied(entry, ruleFor(entry, target, choices), isLinked(chain, place))
        : blockFor(entry, target, choices, () => withoutVariables(entry, place, constants));
    costs.push(...said.costs);
    if (said.comment) comments.add(entry.id);
    exact.push(said.costs.length === 0 ? said.entry : entry);
    return said.entry;
  });
  const lost = new Set(entries.flatMap((entry, place) => (chain.entries[place]?.on && !entry.on ? [entry.id] : [])));
  for (const { id, name } of dependentsOn(chain, lost)) {
    costs.push({ id, name, without: '', words: UNSEEN, kind: 'changed', decided: null, ways: [] });
  }
  return { chain: { ...chain, entries }, exact: { ...chain, entries: exact }, costs, comments };
}

const UNSEEN = 'it tests header fields or variables that another rule changes, and that rule cannot be exported';

interface Said {
  /** Off if it is left out. */
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
  const names = listNamesFor(target, choices);
  current = withinLimits(current, target.limits, names);
  for (const name of referredBy(current, names)) costs.push(referredCost(rule, name));
  const obstacle = obstacleOf(current, target, names);
  if (!obstacle) return { entry: current, costs, comment: false };
  const rest = withoutUnsayable(current, target);
  const lesser = rest && !obstacleOf(rest, target, names) ? rest : null;
  const ways: Unsayable[] = lesser ? ['left out', 'as a comment', 'without'] : ['left out', 'as a comment'];
  const decided = choices.unsayable[rule.id] ?? null;
  const cost = unsayableCost(rule, obstacle, decided, ways);
  if (decided === 'without' && lesser) return { entry: lesser, costs: [...costs, cost], comment: false };
  return { entry: { ...rule, on: false }, costs: [cost], comment: decided === 'as a comment' };
}

/** Why the target cannot express an entry. */
interface Obstacle {
  readonly without: string;
  readonly words: string;
}

function obstacleOf(entry: ChainEntry, target: Target, names: ListNames): Obstacle | null {
  const [missing] = lacks(entry, target);
  if (missing !== undefined) return { without: missing, words: `it needs ${missing}` };
  const [written] = referring({ entries: [entry], closing: '' }, names).entries;
  const words = written ? beyondLimits(writtenOf(written), target.limits) : null;
  return words === null ? null : { without: '', words };
}

/** The lists that a script for the target refers to by name. */
export const listNamesFor = ({ capabilities }: Target, { lists }: Choices): ListNames =>
  capabilities.includes('extlists') ? lists : {};

/** Whether other rules depend on this one firing. */
function isLinked({ entries }: Chain, place: number): boolean {
  const [entry, next] = [entries[place], entries[place + 1]];
  return (entry?.kind === 'rule' && entry.link === 'otherwise') || (next?.kind === 'rule' && next.link === 'otherwise');
}

/** A rule whose actions are all gone, and that stops nothing, is left out. */
function emptied(rule: Rule, said: Said, linked: boolean): Said {
  const { entry } = said;
  const isEmpty = entry.kind === 'rule' && entry.on && entry.actions.length === 0 && entry.ending === 'continue';
  return isEmpty && rule.actions.length > 0 && !linked ? { ...said, entry: { ...entry, on: false } } : said;
}

function blockFor(
  block: ScriptBlock,
  target: Target,
  choices: Choices,
  maybeWithoutVariables: () => ScriptBlock | null,
): Said {
  if (!block.works) return { entry: block, costs: [], comment: false };
  const said = lacks(block, target).includes('variables') ? (maybeWithoutVariables() ?? block) : block;
  const obstacle = obstacleOf(said, target, {});
  if (!obstacle) return { entry: said, costs: [], comment: false };
  const decided = choices.unsayable[block.id] ?? null;
  const cost = unsayableCost(block, obstacle, decided, ['left out', 'as a comment']);
  return { entry: { ...block, on: false }, costs: [cost], comment: decided === 'as a comment' };
}

const changedCost = ({ id, name }: ChainEntry, without: string, words: string): Cost => {
  return { id, name, without, words, kind: 'changed', decided: null, ways: [] };
};

const referredCost = ({ id, name }: ChainEntry, list: string): Cost => {
  const words = `its matches depend on the list “${list}” kept by the server`;
  return { id, name, without: 'extlists', words, kind: 'referred', decided: null, ways: [] };
};

const unsayableCost = (
  { id, name }: ChainEntry,
  obstacle: Obstacle,
  decided: Unsayable | null,
  ways: readonly Unsayable[],
): Cost => ({ id, name, ...obstacle, kind: 'unsayable', decided, ways });

const written = new WeakMap<ChainEntry, readonly Statement[]>();

/** The Sieve of an entry alone. */
function writtenOf(entry: ChainEntry): readonly Statement[] {
  const known = written.get(entry);
  if (known) return known;
  const alone = entry.kind === 'rule' ? { ...entry, on: true, link: 'always' as const } : entry;
  const { script, entryOf } = sieveFromChain({ entries: [alone], closing: '' });
  const own = script.commands.filter((command) => entryOf.has(command));
  written.set(entry, own);
  return own;
}

/** The capabilities that an entry needs and a target lacks. */
function lacks(entry: ChainEntry, target: Target): string[] {
  const required = entry.kind === 'script' ? entry.requires : [];
  return lacking(target, [...required, ...writtenOf(entry).flatMap(needsOf)]);
}

/** The rule without alternatives and exceptions that the target cannot express; null if no test would remain. */
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
