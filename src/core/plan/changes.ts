import { isMark, placesOf } from '../audit/destinations';
import { freeId, isAlways, otherEnding, replace, switchOff } from '../audit/repairs';
import { isFrom, ofDomain } from '../audit/senders';
import { type Destination, isDiscarded } from '../fates/destination';
import { domainOf } from '../mail/address';
import { applyEdits, type Edit, moveBefore, rewriting, runWith } from '../rules/edit';
import { isFurther } from '../rules/further-action-nodes';
import { type Action, blankRule, type Chain, type LeafTest, type Rule, type TestTree } from '../rules/rule';
import { isSame } from '../rules/same';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';
import type { Feature } from './features';
import type { Kept } from './filing';
import { withKeysOf } from './joined';
import type { Trials } from './trials';

/** A change to the chain, with what it costs: the less likely the user means it, the more. */
export interface Change {
  readonly edits: readonly Edit[];
  readonly chain: Chain;
  readonly cost: number;
}

/** One message, where it is wanted, and by what it can be told. */
export interface Subject {
  /** Its index in the sample. */
  readonly index: number;
  readonly wanted: Destination;
  readonly features: readonly Feature[];
  /** Of any message of the sample: who wrote it, and where the user keeps it. */
  readonly senderOf: (index: number) => string;
  readonly keptIn: (index: number) => Kept | null;
  /** Rules that match mail and act on none of it. */
  readonly silenced: ReadonlySet<string>;
}

const COST = {
  move: 1.5,
  rouse: 0.5,
  ending: 1.5,
  'leave out a key': 3,
  narrow: 2.2,
  'leave out a test': 2.6,
  'leave out an exception': 2,
  exempt: 2,
  widen: 2,
  'other folder': 3.4,
  'one more action': 2.4,
  'switch off': 5,
  'new rule': 3.6,
} as const;

/** What it adds to take a part of its mail away from a rule: few want to be rid of most of it. */
const forgoing = (share: number): number => 6 * Math.max(0, share - 0.5);

/** The changes of one step each that could bring a message nearer to where it is wanted. */
export function changesFor(chain: Chain, subject: Subject, trials: Trials): Change[] {
  const maker = new Maker(chain, subject, trials);
  return maker.all();
}

class Maker {
  readonly #found: Change[] = [];
  readonly #fired: readonly Rule[];
  readonly #held: readonly Rule[];

  constructor(
    readonly chain: Chain,
    readonly subject: Subject,
    readonly trials: Trials,
  ) {
    const ids = trials.actingOn(chain, subject.index);
    const rules = chain.entries.filter((entry): entry is Rule => entry.kind === 'rule' && entry.on);
    this.#fired = rules.filter(({ id }) => ids.has(id));
    this.#held = rules.filter((rule) => !ids.has(rule.id) && trials.holds(rule, subject.index));
  }

  all(): Change[] {
    for (const rule of this.#fired) {
      if (!this.#isWrong(rule)) continue;
      this.#exempt(rule);
      this.#leaveOut(rule);
      this.#narrow(rule);
      this.#elsewhere(rule);
      this.#make('switch off', [switchOff(rule.id)]);
    }
    for (const rule of [...this.#fired, ...this.#held]) this.#make('ending', [otherEnding(rule)]);
    for (const rule of this.#held) this.#moveUp(rule);
    const rules = this.chain.entries.filter((entry): entry is Rule => entry.kind === 'rule' && entry.on);
    for (const rule of rules) {
      if (!this.#fired.includes(rule) && !this.#held.includes(rule) && this.#isWanted(rule)) this.#widen(rule);
    }
    this.#newRule();
    return this.#found;
  }

  /** Whether it takes the message where it is not wanted, or stops the chain. */
  #isWrong(rule: Rule): boolean {
    if (rule.ending === 'stop') return true;
    return rule.actions.some((action) => !this.#fits(action) && !isMark(action));
  }

  #fits(action: Action): boolean {
    const { folders, redirects, rejected } = this.subject.wanted;
    if (action.action === 'fileinto') return folders.includes(canonicalFolder(action.folder));
    if (action.action === 'keep') return folders.includes(INBOX);
    if (action.action === 'redirect') return redirects.includes(action.address);
    if (action.action === 'discard') return isDiscarded(this.subject.wanted);
    return action.action === 'reject' || action.action === 'ereject' ? rejected : true;
  }

  /** Whether it does part of what is wanted, and nothing that is not. */
  #isWanted(rule: Rule): boolean {
    const acts = rule.actions.filter((action) => !isMark(action));
    return acts.length > 0 && acts.every((action) => this.#fits(action)) && placesOf(rule).size > 0;
  }

  #make(kind: keyof typeof COST, edits: readonly Edit[], more = 0): void {
    const applied = applyEdits(this.chain, edits);
    if (applied.ok) this.#found.push({ edits, chain: applied.chain, cost: COST[kind] + more });
  }

  #rewrite(kind: keyof typeof COST, rule: Rule, after: Rule, more = 0): void {
    this.#make(kind, [replace(this.chain, rule, [after])], more);
  }

  #exempt(rule: Rule): void {
    for (const { tests, cost } of this.subject.features) {
      const share = this.#shareOf(rule, tests);
      // A rule that exempts what it is about is one that is off.
      if (share === 1) continue;
      this.#rewrite('exempt', rule, { ...rule, unless: withAlternative(rule.unless, tests) }, cost + forgoing(share));
    }
  }

  /** The part of the mail that a rule matches which some tests match too, from 0 to 1. */
  #shareOf(rule: Rule, tests: TestTree): number {
    const held = this.trials.concerned(rule);
    return held && !held.isEmpty() ? held.and(this.trials.holding(tests)).count() / held.count() : 0;
  }

  /** Keys without which the rule does not match the message. */
  #leaveOut(rule: Rule): void {
    for (const tests of withoutKeys(rule.tests)) {
      this.#rewrite('leave out a key', rule, { ...rule, tests }, forgoing(1 - this.#shareOf(rule, tests)));
    }
  }

  /** Names the senders whose mail lies where the rule puts it, instead of a part of their names. */
  #narrow(rule: Rule): void {
    const { keptIn, senderOf } = this.subject;
    const folders = rule.actions.flatMap((one) => (one.action === 'fileinto' ? [canonicalFolder(one.folder)] : []));
    const [folder] = folders;
    if (folder === undefined || !hasPartOfSender(rule.tests)) return;
    const sums = new Map<string, number>();
    for (const index of this.trials.holding(rule.tests).members()) {
      const kept = keptIn(index);
      if (!kept) continue;
      const sender = senderOf(index);
      sums.set(sender, (sums.get(sender) ?? 0) + (kept.folder === folder ? 1 : -kept.weight));
    }
    const meant = [...sums].filter(([sender, sum]) => sum > 0 && sender !== '').map(([sender]) => sender);
    if (meant.length === 0 || meant.length > MOST_SENDERS || meant.includes(senderOf(this.subject.index))) return;
    const domains = [...new Set(meant.map(domainOf))];
    for (const by of [ofDomain(domains), isFrom(meant)]) {
      this.#rewrite('narrow', rule, { ...rule, tests: withoutPartOfSender(rule.tests, by) });
    }
  }

  /** Does with all its mail what is wanted for the message. */
  #elsewhere(rule: Rule): void {
    const { wanted } = this.subject;
    const at = rule.actions.findIndex((action) => !this.#fits(action) && !isMark(action));
    const wrong = rule.actions[at];
    const [instead, ...others] = actionsFor(wanted);
    if (wrong && !isFurther(wrong) && instead && others.length === 0) {
      const rest = rule.actions.filter((action) => !isSame(action, instead));
      const place = rest.indexOf(wrong);
      this.#rewrite('other folder', rule, { ...rule, actions: rest.with(place, instead) });
    }
    const missing = actionsFor(wanted).filter((action) => !rule.actions.some((own) => isSame(own, action)));
    if (missing.length > 0 && rule.actions.every((action) => this.#fits(action))) {
      this.#rewrite('one more action', rule, { ...rule, actions: [...rule.actions, ...missing] });
    }
  }

  /** Before each rule that stops the message. */
  #moveUp(rule: Rule): void {
    for (const { id, ending } of this.#fired) {
      const edit = ending === 'stop' ? moveBefore(this.chain, rule.id, id) : null;
      if (edit) this.#make(this.subject.silenced.has(rule.id) ? 'rouse' : 'move', [edit]);
    }
  }

  /** So that it matches the message too. */
  #widen(rule: Rule): void {
    const { index, features } = this.subject;
    const matches = (tests: TestTree) => this.trials.holding(tests).has(index);
    rule.unless.forEach((exception, at) => {
      if (matches(exception)) {
        this.#rewrite('leave out an exception', rule, { ...rule, unless: rule.unless.filter((_, one) => one !== at) });
      }
    });
    const { tests } = rule;
    if (matches(tests) || isAlways(tests)) return;
    if (tests.kind === 'all') {
      tests.children.forEach((child, at) => {
        const rest = tests.children.filter((_, one) => one !== at);
        if (!matches(child) && rest.length > 0) {
          const only = rest.length === 1 ? rest[0] : undefined;
          this.#rewrite('leave out a test', rule, { ...rule, tests: only ?? { kind: 'all', children: rest } });
        }
      });
    }
    for (const { tests: feature, by, cost } of features) {
      if (by === 'test') continue;
      for (const widened of wideningsOf(tests, feature))
        this.#rewrite('widen', rule, { ...rule, tests: widened }, cost);
    }
  }

  /** Directly before the first rule that takes it where it is not wanted, else at the end. */
  #newRule(): void {
    const { features, wanted } = this.subject;
    const { entries } = this.chain;
    const wrong = this.#fired.find((rule) => this.#isWrong(rule));
    const head = (wrong && runWith(entries, wrong.id)?.from) ?? entries.length;
    const actions = actionsFor(wanted);
    if (actions.length === 0) return;
    const id = freeId('plan', this.chain);
    for (const { tests, cost, by } of features) {
      if (by === 'test') continue;
      const rule: Rule = { ...blankRule(id), name: nameOfNew(wanted), tests, actions, ending: 'stop' };
      this.#make('new rule', [rewriting(head, [], [rule])], cost);
    }
  }
}

/** The actions that bring a message there. */
function actionsFor(wanted: Destination): Action[] {
  if (wanted.rejected) return [];
  if (isDiscarded(wanted)) return [{ action: 'discard' }];
  return [
    ...wanted.folders.map((folder): Action => {
      if (folder === INBOX) return { action: 'keep', flags: null };
      return { action: 'fileinto', folder, copy: false, flags: null };
    }),
    ...wanted.redirects.map((address): Action => ({ action: 'redirect', address, copy: wanted.folders.length > 0 })),
  ];
}

function nameOfNew({ folders, redirects }: Destination): string {
  return [...folders, ...redirects].join(', ') || 'Discarded';
}

const MOST_SENDERS = 20;

const isPartOfSender = (tree: TestTree): boolean =>
  tree.kind === 'leaf' &&
  isKeyed(tree.test) &&
  tree.test.match !== 'is' &&
  tree.test.headers.every((name) => /^(from|sender|reply-to)$/i.test(name));

const hasPartOfSender = (tree: TestTree): boolean =>
  tree.kind === 'leaf' ? isPartOfSender(tree) : tree.kind !== 'none' && tree.children.some(hasPartOfSender);

function withoutPartOfSender(tree: TestTree, instead: TestTree): TestTree {
  if (tree.kind === 'leaf') return isPartOfSender(tree) ? instead : tree;
  return { ...tree, children: tree.children.map((child) => withoutPartOfSender(child, instead)) };
}

type Keyed = Extract<LeafTest, { readonly test: 'header' | 'address' }>;

/** Whether two tests differ in their keys only. */
function differByKeys(a: TestTree, b: TestTree): boolean {
  if (a.kind !== 'leaf' || b.kind !== 'leaf' || !isKeyed(a.test) || !isKeyed(b.test)) return false;
  return a.test.list === undefined && isSame({ ...a.test, keys: [] }, { ...b.test, keys: [] });
}

const isKeyed = (test: LeafTest): test is Keyed => test.test === 'header' || test.test === 'address';

function withKeys(a: TestTree, b: TestTree): TestTree {
  if (a.kind !== 'leaf' || b.kind !== 'leaf' || !isKeyed(a.test) || !isKeyed(b.test)) return a;
  return { kind: 'leaf', test: withKeysOf(a.test, b.test) };
}

/** One more alternative among some: as a key where one of them differs by keys only. */
export function withAlternative(trees: readonly TestTree[], more: TestTree): TestTree[] {
  const at = trees.findIndex((tree) => differByKeys(tree, more));
  const like = trees[at];
  return like ? trees.with(at, withKeys(like, more)) : [...trees, more];
}

/** The ways to let a condition match what a feature matches too. */
function wideningsOf(tree: TestTree, feature: TestTree): TestTree[] {
  if (tree.kind === 'any') return [{ ...tree, children: withAlternative(tree.children, feature) }];
  if (tree.kind === 'leaf') {
    return [differByKeys(tree, feature) ? withKeys(tree, feature) : { kind: 'any', children: [tree, feature] }];
  }
  if (tree.kind !== 'all') return [{ kind: 'any', children: [tree, feature] }];
  // In a conjunction, the one part that speaks of the same field is widened.
  return tree.children.flatMap((child, at) => {
    if (!speakOfSame(child, feature)) return [];
    return wideningsOf(child, feature).map((widened) => ({ ...tree, children: tree.children.with(at, widened) }));
  });
}

function speakOfSame(a: TestTree, b: TestTree): boolean {
  if (a.kind !== 'leaf' || b.kind !== 'leaf' || !isKeyed(a.test) || !isKeyed(b.test)) return false;
  return isSame(a.test.headers, b.test.headers);
}

/** The tree without one of its keys, each way. */
function withoutKeys(tree: TestTree): TestTree[] {
  if (tree.kind === 'leaf') {
    const { test } = tree;
    if (!isKeyed(test) || test.list !== undefined || test.keys.length < 2) return [];
    return test.keys.map((_, at) => ({
      kind: 'leaf',
      test: { ...test, keys: test.keys.filter((_, one) => one !== at) },
    }));
  }
  return tree.children.flatMap((child, at) => {
    const rest = tree.children.filter((_, one) => one !== at);
    const without: TestTree[] = tree.kind === 'any' && rest.length > 0 ? [{ ...tree, children: rest }] : [];
    return [...without, ...withoutKeys(child).map((one) => ({ ...tree, children: tree.children.with(at, one) }))];
  });
}
