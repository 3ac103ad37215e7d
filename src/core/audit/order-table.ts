import { isFurther } from '../rules/further-action-nodes';
import { type Profile, profileOf } from '../rules/profile';
import { type Chain, type ChainEntry, conditionOf, type LeafTest, leavesOf, looksAtFlags } from '../rules/rule';
import { normalFlags } from '../sieve/interpret/fate';
import { addsPlaces, cancelsKeep, differAlone, type Effect, effectsOf } from './order-effects';
import type { PairTable } from './pair-table';

/**
 * What is known of the order of two rules that overlap. `alike`: no message that both match is treated differently when
 * the second is moved directly before the first. `conflict`: some message is. `alone`: each message is that these two
 * match, or these and one rule between that stops, and no other rule does; whether there is one was not asked. `open`:
 * none of these is known.
 */
export type OrderState = 'alike' | 'conflict' | 'alone' | 'open';

/** What the form of a chain tells of the order of any two rules, and what is found out besides. */
export class OrderTable {
  readonly #profile: Profile | undefined;
  readonly #effects: readonly (Effect | null)[];
  /** For each place, how many entries before it may end in the inbox, or let order matter. */
  readonly #inInbox: Uint32Array;
  readonly #ordering: Uint32Array;
  /** Places of rules that stop and can be told by form, and for each place how many of them are up to it. */
  readonly #stopping: readonly number[];
  readonly #stoppingUpTo: Uint32Array;
  /** For each place, the index of its rule among those that are on. */
  readonly #indexes: Int32Array;
  readonly #found = new Map<number, OrderState>();
  readonly #relations: Relations;
  /** Flags that some rule tests; null if they are not only named. */
  readonly #tested: ReadonlySet<string> | null;
  readonly #hasScripts: boolean;

  /** `places` are those of the rules that are on, as numbered in `pairs`, which tells whether two of them overlap. */
  constructor(
    chain: Chain,
    readonly places: readonly number[],
    readonly pairs: PairTable,
  ) {
    const { entries } = chain;
    this.#profile = profileOf(chain);
    this.#effects = effectsOf(entries);
    this.#inInbox = counted(entries, (entry) => !endsElsewhere(entry));
    this.#ordering = counted(entries, letsOrderMatter);
    const stops = (place: number) => {
      const effect = this.#effects[place];
      return effect?.rule.on === true && effect.isFree && effect.stops && effect.plain !== null;
    };
    this.#stopping = places.filter(stops);
    this.#stoppingUpTo = counted(entries, (_, place) => stops(place)).subarray(1);
    this.#indexes = new Int32Array(entries.length);
    places.forEach((place, index) => {
      this.#indexes[place] = index;
    });
    this.#relations = new Relations(this.#effects);
    this.#hasScripts = entries.some(({ on, kind }) => on && kind === 'script');
    this.#tested = testedFlags(entries);
  }

  /** `a` and `b` are places in the chain, `a` the smaller. */
  at(a: number, b: number): OrderState {
    return this.#found.get(this.#key(a, b)) ?? this.byForm(a, b);
  }

  /** Keeps what was found out about a pair. */
  set(a: number, b: number, state: 'alike' | 'conflict'): void {
    this.#found.set(this.#key(a, b), state);
  }

  /** What is known of all pairs that overlap. `checkpoint` may throw to cancel. */
  counts(checkpoint: () => void): Record<OrderState, number> {
    const counts: Record<OrderState, number> = { alike: 0, conflict: 0, alone: 0, open: 0 };
    this.places.forEach((b, second) => {
      checkpoint();
      for (let first = 0; first < second; first++) {
        if (this.pairs.isPossible(first, second)) counts[this.byForm(this.places[first] ?? 0, b)]++;
      }
    });
    for (const [key, state] of this.#found) {
      const size = this.#effects.length;
      counts[this.byForm(Math.floor(key / size), key % size)]--;
      counts[state]++;
    }
    return counts;
  }

  /** What form alone tells. */
  byForm(a: number, b: number): OrderState {
    if (this.#profile) return this.#profile.order === 'none' ? 'alike' : 'open';
    // Without stops, links, flags and script blocks, actions add up to the same fate in any order.
    if (this.#ordering[a] === this.#ordering[b + 1]) return 'alike';
    const [first, second] = [this.#effects[a], this.#effects[b]];
    if (!first?.isFree || !second?.isFree) return 'open';
    const relation = this.#relations.of(first, second);
    if ((relation & ALIKE) !== 0) return 'alike';
    if ((relation & ALIKE_OUTSIDE) !== 0 && this.#inInbox[a] === this.#inInbox[b]) return 'alike';
    if (this.#hasScripts || first.isFurther || second.isFurther) return 'open';
    if (this.#isTested(first) || this.#isTested(second)) return 'open';
    return (relation & DIFFERS) !== 0 || this.#differStopped(a, b, first, second) ? 'alone' : 'open';
  }

  /** Whether a rule between, which stops, keeps the second from doing what it would do if it were tried first. */
  #differStopped(a: number, b: number, { plain, stops }: Effect, second: Effect): boolean {
    if (!plain || !second.plain || stops || second.stops) return false;
    const [from, to] = [this.#indexes[a] ?? 0, this.#indexes[b] ?? 0];
    for (let at = this.#stoppingUpTo[a] ?? 0; at < this.#stopping.length; at++) {
      const place = this.#stopping[at] ?? b;
      if (place >= b) return false;
      const index = this.#indexes[place] ?? 0;
      if (!this.pairs.isPossible(from, index) || !this.pairs.isPossible(index, to)) continue;
      const between = this.#effects[place]?.plain;
      if (between && addsPlaces(second.plain, [plain, between])) return true;
    }
    return false;
  }

  /** Whether another rule may match because of flags that this one sets. */
  #isTested({ bearsOnFlags, flags }: Effect): boolean {
    const tested = this.#tested;
    return tested === null ? bearsOnFlags : flags.some((flag) => tested.has(flag));
  }

  #key(a: number, b: number): number {
    return a * this.#effects.length + b;
  }
}

/** What the effects of two rules tell of their order, wherever they stand, as bits. */
const ALIKE = 1;
/** Alike if no rule from the first to before the second may leave what it stops in the inbox. */
const ALIKE_OUTSIDE = 2;
/** A message that only these two match is treated differently. */
const DIFFERS = 4;
const KNOWN = 8;

/** Effects of which all pairs are kept. */
const MOST_EFFECTS = 4000;

/** The relations between effects, each computed once: thousands of rules have few effects. */
class Relations {
  readonly #size: number;
  readonly #known: Uint8Array;

  constructor(effects: readonly (Effect | null)[]) {
    this.#size = Math.max(0, ...effects.map((effect) => (effect?.number ?? -1) + 1));
    this.#known = new Uint8Array(this.#size <= MOST_EFFECTS ? this.#size * this.#size : 0);
  }

  of(first: Effect, second: Effect): number {
    const place = first.number * this.#size + second.number;
    const known = this.#known[place] ?? 0;
    if (known !== 0) return known;
    const found = relationOf(first, second) | KNOWN;
    this.#known[place] = found;
    return found;
  }
}

function relationOf(first: Effect, second: Effect): number {
  const isAlike = second.stops
    ? first.stops && first.number === second.number
    : first.stops && (addsNothing(first, second) || (second.onlyMarks && first.dropsMarks));
  const isAlikeOutside = !second.stops && second.onlyDiscards;
  const differs = !first.isFurther && !second.isFurther && differAlone(first, second);
  return (isAlike ? ALIKE : 0) | (isAlikeOutside ? ALIKE_OUTSIDE : 0) | (differs ? DIFFERS : 0);
}

function testedFlags(entries: readonly ChainEntry[]): Set<string> | null {
  const tests = entries.flatMap((entry) => {
    return entry.kind === 'rule' && entry.on ? leavesOf(conditionOf(entry)).filter(isFlagTest) : [];
  });
  return tests.every(({ match }) => match === 'is') ? new Set(tests.flatMap(({ keys }) => normalFlags(keys))) : null;
}

const isFlagTest = (leaf: LeafTest): leaf is Extract<LeafTest, { test: 'hasflag' }> => leaf.test === 'hasflag';

/** The second does nothing that the first does not do as well. */
function addsNothing(first: Effect, second: Effect): boolean {
  if (second.onlyDiscards && (first.cancelsKeep || second.each.size === 0)) return true;
  if (first.bearsOnFlags || second.bearsOnFlags) return false;
  for (const one of second.each) if (!first.each.has(one)) return false;
  return true;
}

/**
 * Whether the order within a stretch of the chain can matter: without stops, links, flags and script blocks, actions
 * add up to the same fate in any order.
 */
export function orderMatters(chain: Chain, from: number, to: number): boolean {
  const profile = profileOf(chain);
  return profile ? profile.order === 'listed' : chain.entries.slice(from, to + 1).some(letsOrderMatter);
}

function letsOrderMatter(entry: ChainEntry): boolean {
  if (!entry.on) return false;
  if (entry.kind === 'script' || entry.ending === 'stop' || entry.link === 'otherwise') return true;
  if (looksAtFlags(conditionOf(entry))) return true;
  return entry.actions.some((action) => ('flags' in action && action.flags !== null) || isFurther(action));
}

/** An entry that does not stop, or after which mail that it stops is in the inbox only if it says so. */
function endsElsewhere(entry: ChainEntry): boolean {
  if (!entry.on) return true;
  if (entry.kind === 'script' || entry.actions.some(isFurther)) return false;
  return entry.ending === 'continue' || entry.actions.some(cancelsKeep);
}

/** For each place up to the end, how many entries before it are such. */
function counted(entries: readonly ChainEntry[], isSuch: (entry: ChainEntry, place: number) => boolean): Uint32Array {
  const counts = new Uint32Array(entries.length + 1);
  let count = 0;
  entries.forEach((entry, place) => {
    if (isSuch(entry, place)) count++;
    counts[place + 1] = count;
  });
  return counts;
}
