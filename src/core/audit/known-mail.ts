import { atomKey } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { type AtomBitmaps, anyHolds, holds, trafficOf, withoutTraffic } from '../flow/conditions';
import { type EntryFlow, type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { type SingleRun, SingleRuns } from '../flow/single';
import { inContext } from '../rules/context';
import { type Chain, type LeafTest, leavesOf, type Rule, type TestTree } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import { groupAlike } from './alike';

/** A set of messages under the chain: stored mail, or example messages. */
export interface MailBody {
  readonly flow: Flow;
  /** For the entry at an index of the chain. */
  readonly at: (place: number) => EntryFlow;
  /**
   * Whether variants of the chain, with entries moved or removed, can be run here: not if earlier entries changed
   * messages.
   */
  readonly canRun: (other: Chain) => boolean;
  /** Whether every test of another chain was evaluated here. */
  readonly knows: (other: Chain) => boolean;
  readonly knowsTests: (tree: TestTree) => boolean;
  /** Messages in `among` whose fate differs under another chain over the same tests. */
  readonly changedBy: (other: Chain, among: Bitmap) => Bitmap;
  /** The same for one message after the other, without a bitmap for each. */
  readonly differsUnder: (other: Chain) => (message: number) => boolean;
  /** Messages that match tests alone; none for tests of flags set by rules. */
  readonly holding: (tree: TestTree) => Bitmap;
  /** Messages that match a rule's tests and an exception, reached or not. */
  readonly exempt: (rule: Rule) => Bitmap;
  readonly inInbox: Bitmap;
}

/**
 * The stored mail under the chain: the part that findings count, and all of it, including messages that take no part,
 * since any message may refute a proof. `checkpoint` may throw to cancel.
 */
export function storedBodies(
  chain: Chain,
  flow: Flow,
  atoms: AtomBitmaps,
  checkpoint: () => void,
): { stored: MailBody; whole: MailBody } {
  const stored = mailBody(chain, flow, atoms, checkpoint);
  if (trafficOf(atoms) === null) return { stored, whole: stored };
  const all = withoutTraffic(atoms);
  return { stored, whole: mailBody(chain, runFlow(chain, all, flow.count, checkpoint), all, checkpoint) };
}

/** Messages of up to this many groups of alike ones are run one by one, more all at once. */
const FEW = 2000;

/** `checkpoint` may throw to cancel. */
export function mailBody(chain: Chain, flow: Flow, atoms: AtomBitmaps, checkpoint?: () => void): MailBody {
  const alike = groupAlike(atoms, flow.count, checkpoint);
  const small = new Map<string, Bitmap>();
  for (const [key, bitmap] of atoms) {
    checkpoint?.();
    small.set(key, alike.project(bitmap));
  }
  const smallFlow = runFlow(chain, small, alike.count, checkpoint);
  const noFlags = { count: flow.count, flags: new Map<string, Bitmap>() };
  const { none, traffic } = flow.fates;
  const runs = new SingleRuns(small, alike.count, checkpoint);
  let own: SingleRun | null | undefined;
  const fates: (string | undefined)[] = [];
  const exempt = new WeakMap<Rule, Bitmap>();
  const allChanged = (other: Chain) => {
    const changed = runFlow(other, small, alike.count, checkpoint).fates.differsFrom(smallFlow.fates);
    return alike.spread(changed);
  };
  /** For groups of alike messages. */
  const maybeDiffers = (other: Chain): ((group: number) => boolean) | null => {
    own = own === undefined ? runs.maybeRun(chain) : own;
    const before = own;
    const after = before && runs.maybeRun(other);
    if (!before || !after) return null;
    return (group) => {
      // Each runs through two whole chains.
      checkpoint?.();
      const known = fates[group] ?? before(group);
      fates[group] = known;
      return known !== after(group);
    };
  };
  /** The members of a set whose fate differs; null if they are of too many groups to run one by one. */
  const maybeAmong = (among: Bitmap, differs: (group: number) => boolean): Bitmap | null => {
    const changed = new Bitmap(flow.count);
    const known = new Map<number, boolean>();
    for (const message of among.members()) {
      const group = alike.groupOf(message);
      let differing = known.get(group);
      if (differing === undefined) {
        if (known.size >= FEW) return null;
        differing = differs(group);
        known.set(group, differing);
      }
      if (differing) changed.add(message);
    }
    return changed;
  };
  const ofMessage = (trees: readonly TestTree[]) => !trees.flatMap(leavesOf).some(isFlagTest);
  const knows = (other: Chain) => atomsOf(other).every((atom) => atoms.has(atomKey(atom)));
  return {
    flow,
    at: (place) => {
      const entry = flow.entries[place];
      if (!entry) throw new Error(`there is no entry ${place}`);
      return entry;
    },
    canRun: (other) => inContext(other) === other || knows(other),
    knows,
    knowsTests: (tree) => leavesOf(tree).every((leaf) => leaf.test !== 'hasflag' && atoms.has(atomKey(leaf))),
    changedBy: (other, wanted) => {
      const among = wanted.and(traffic);
      if (among.isEmpty()) return none;
      const differs = maybeDiffers(other);
      return (differs && maybeAmong(among, differs)) ?? allChanged(other).and(among);
    },
    differsUnder: (other) => {
      const differs = maybeDiffers(other);
      let changed: Bitmap | null = null;
      return (message) => {
        if (differs) return differs(alike.groupOf(message));
        changed ??= allChanged(other);
        return changed.has(message);
      };
    },
    holding: (tree) => (ofMessage([tree]) ? holds(tree, atoms, noFlags).and(traffic) : none),
    exempt: (rule) => {
      const { tests, unless } = rule;
      const known = exempt.get(rule);
      if (known) return known;
      const some = unless.length > 0 && ofMessage([tests, ...unless]);
      const found = some
        ? holds(tests, atoms, noFlags)
            .and(anyHolds(unless, atoms, noFlags))
            .and(traffic)
        : none;
      exempt.set(rule, found);
      return found;
    },
    inInbox: flow.fates.folders.get(INBOX)?.messages ?? none,
  };
}

const isFlagTest = ({ test }: LeafTest): boolean => test === 'hasflag';
