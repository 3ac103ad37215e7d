import { discards, rejects, takesAway } from '../audit/destinations';
import { Bitmap } from '../flow/bitmap';
import type { Flow } from '../flow/flow';
import { Knowledge } from '../reason/knowledge';
import { Reach } from '../reason/reach';
import { COMPARISON } from '../reason/solve/assumptions';
import { type Formula, not } from '../reason/solve/formula';
import { possibleWithin } from '../reason/solve/solver';
import type { Witness } from '../reason/witness';
import { profileOf } from '../rules/profile';
import type { Chain, ChainEntry } from '../rules/rule';
import { isSame } from '../rules/same';
import { INBOX } from '../sieve/interpret/fate';
import { longestAscending } from '../text/ascending';
import { elementAt } from '../text/lookup';

/** The steps by which a user makes one chain of another by hand, in a program that takes no script (need N39). */

export interface Step {
  readonly do: 'change' | 'add' | 'move' | 'switch' | 'delete';
  /** The entry before and after; null where there is none. */
  readonly before: ChainEntry | null;
  readonly after: ChainEntry | null;
  /** Its place after this step, counted from 1; null if it is gone, or where order means nothing. */
  readonly place: number | null;
  /** Its index in the chain that is there first, and in the one to be made; null where it is not. */
  readonly first: number | null;
  readonly last: number | null;
  /** All entries after this step. */
  readonly chain: Chain;
}

export interface Steps {
  readonly steps: readonly Step[];
  /** Whether no state between the two loses, redirects or hides a message that neither of them does. */
  readonly isSafe: boolean;
}

interface StepsSettings {
  readonly knowledge?: Knowledge;
  /** Whether a state treats some stored message as neither of the two chains does; see `Steps.isSafe`. */
  readonly isUnsafe?: (state: Chain) => boolean;
}

/** The most states that are looked at for an order in which no message is lost. */
const MOST_STATES = 400;

/**
 * The fewest steps from one chain to the other: one for each entry that differs, and one for each that has to be moved.
 * If no order of them is safe, the entries concerned are switched off first and on again at the end.
 */
export function stepsBetween(from: Chain, to: Chain, settings: StepsSettings = {}): Steps {
  const plan = new Plan(from, to);
  const { moves } = plan;
  if (moves.length === 0) return { steps: [], isSafe: true };
  const safety = new Safety(from, to, settings);
  const order = safeOrder(plan, (state) => safety.isSafe(state));
  return order ? { steps: plan.stepsOf(order), isSafe: true } : { steps: plan.switchedOff(), isSafe: false };
}

/** One thing to do with one entry. */
interface Move {
  readonly do: Step['do'];
  readonly key: number;
}

interface Present {
  /** The index in the chain to be made, or a negative number for an entry that goes. */
  readonly key: number;
  readonly entry: ChainEntry;
}

class Plan {
  readonly moves: readonly Move[];
  readonly #first: readonly Present[];
  /** Entries that keep their places among each other. */
  readonly #settled: ReadonlySet<number>;
  readonly #isOrdered: boolean;

  constructor(
    from: Chain,
    readonly to: Chain,
  ) {
    this.#isOrdered = profileOf(to)?.order !== 'none';
    const keys = matched(from.entries, to.entries);
    this.#first = from.entries.map((entry, place) => ({ key: keys[place] ?? -1 - place, entry }));
    const present = this.#first.filter(({ key }) => key >= 0).map(({ key }) => key);
    const unmoved = this.#isOrdered ? Array.from(longestAscending(present), (at) => elementAt(present, at)) : present;
    this.#settled = new Set(unmoved);
    const differ = this.#first.flatMap(({ key, entry }): Move[] => {
      if (key < 0) return [{ do: 'delete', key }];
      const after = elementAt(to.entries, key);
      const moved: Move[] = this.#settled.has(key) ? [] : [{ do: 'move', key }];
      if (this.#areAlike(entry, after)) return moved;
      const isSwitch = this.#areAlike({ ...entry, on: after.on }, after);
      return [{ do: isSwitch ? 'switch' : 'change', key }, ...moved];
    });
    const here = new Set(present);
    const added = to.entries.flatMap((_, key): Move[] => (here.has(key) ? [] : [{ do: 'add', key }]));
    this.moves = [
      ...added,
      ...differ.filter((one) => one.do !== 'delete'),
      ...differ.filter((one) => one.do === 'delete'),
    ];
  }

  /** Notes, tags and ids have no effect, and endings only where each rule says its own. */
  #areAlike(a: ChainEntry, b: ChainEntry): boolean {
    const ending = profileOf(this.to)?.ending ?? 'rule';
    const plain = (entry: ChainEntry) => ({
      ...entry,
      id: '',
      note: '',
      ...(entry.kind === 'rule' && { tags: [], ...(ending !== 'rule' && { ending: 'continue' }) }),
    });
    return isSame(plain(a), plain(b));
  }

  /** The entries once some things are done, whatever their order. */
  stateAfter(done: ReadonlySet<Move>): readonly Present[] {
    const does = (what: Step['do'], key: number) =>
      this.moves.some((one) => one.do === what && one.key === key && done.has(one));
    const isMoved = (key: number) => does('move', key);
    const kept = this.#first
      .filter(({ key }) => !does('delete', key) && !isMoved(key))
      .map(({ key, entry }) => {
        const isDone = does('change', key) || does('switch', key);
        return { key, entry: isDone ? elementAt(this.to.entries, key) : entry };
      });
    const changed = (key: number) => {
      const isPending = this.moves.some((one) => one.key === key && /change|switch/.test(one.do) && !done.has(one));
      return isPending ? this.#entryBefore(key) : elementAt(this.to.entries, key);
    };
    const put = this.to.entries.flatMap((_, key) =>
      does('add', key) || isMoved(key) ? [{ key, entry: changed(key) }] : [],
    );
    const state = [...kept];
    // From the end, so that what stands behind is there already.
    for (const one of put.toReversed()) {
      const behind = state.findIndex(
        ({ key }) => key > one.key && (this.#settled.has(key) || put.some((other) => other.key === key)),
      );
      state.splice(behind < 0 ? state.length : behind, 0, one);
    }
    return state;
  }

  #entryBefore(key: number): ChainEntry {
    return this.#first.find((one) => one.key === key)?.entry ?? elementAt(this.to.entries, key);
  }

  chainOf(state: readonly Present[]): Chain {
    return { ...this.to, entries: state.map(({ key, entry }) => ({ ...entry, id: `s${key}` })) };
  }

  stepsOf(order: readonly Move[]): Step[] {
    const done = new Set<Move>();
    return order.map((move) => {
      const before = this.stateAfter(done);
      done.add(move);
      return this.#step(move, before, this.stateAfter(done));
    });
  }

  #step(move: Move, before: readonly Present[], after: readonly Present[]): Step {
    const at = after.findIndex(({ key }) => key === move.key);
    const first = this.#first.findIndex(({ key }) => key === move.key);
    return {
      do: move.do,
      first: first < 0 ? null : first,
      last: move.key < 0 ? null : move.key,
      before: before.find(({ key }) => key === move.key)?.entry ?? null,
      after: after[at]?.entry ?? null,
      place: at < 0 || !this.#isOrdered ? null : at + 1,
      chain: this.chainOf(after),
    };
  }

  /** Everything that is concerned is switched off first, and on again at the end. */
  switchedOff(): Step[] {
    const concerned = new Set(this.moves.map(({ key }) => key));
    const off = (state: readonly Present[], keys: ReadonlySet<number>) =>
      state.map((one) => (keys.has(one.key) && one.entry.on ? { ...one, entry: { ...one.entry, on: false } } : one));
    const steps: Step[] = [];
    const gone = new Set<number>();
    // What takes mail away goes first and comes back last.
    const gravestFirst = (state: readonly Present[]) => state.toSorted((a, b) => gravity(b.entry) - gravity(a.entry));
    for (const { key, entry } of gravestFirst(this.#first)) {
      if (!concerned.has(key) || !entry.on) continue;
      const before = off(this.#first, gone);
      gone.add(key);
      steps.push(this.#step({ do: 'switch', key }, before, off(this.#first, gone)));
    }
    const done = new Set<Move>();
    // What only has to be switched is switched at the end.
    for (const move of this.moves.filter((one) => one.do !== 'switch')) {
      const before = off(this.stateAfter(done), concerned);
      done.add(move);
      steps.push(this.#step(move, before, off(this.stateAfter(done), concerned)));
    }
    for (const move of this.moves) done.add(move);
    const last = this.stateAfter(done);
    const waiting = new Set(last.filter(({ key, entry }) => concerned.has(key) && entry.on).map(({ key }) => key));
    for (const { key } of gravestFirst(last).reverse()) {
      if (!waiting.has(key)) continue;
      const before = off(last, waiting);
      waiting.delete(key);
      steps.push(this.#step({ do: 'switch', key }, before, off(last, waiting)));
    }
    return steps;
  }
}

/** How much mail that an entry acts on is out of sight. */
function gravity(entry: ChainEntry): number {
  if (entry.kind === 'script' || discards(entry) || rejects(entry)) return 2;
  return takesAway(entry) ? 1 : 0;
}

/** For each entry of the first, the index of the same entry among the others: by name, or by what it does. */
function matched(from: readonly ChainEntry[], to: readonly ChainEntry[]): (number | undefined)[] {
  const found: (number | undefined)[] = from.map(() => undefined);
  const free = new Set(to.keys());
  const pair = (areSame: (a: ChainEntry, b: ChainEntry) => boolean) => {
    from.forEach((entry, place) => {
      if (found[place] !== undefined) return;
      const key = [...free].find((one) => areSame(entry, elementAt(to, one)));
      if (key === undefined) return;
      found[place] = key;
      free.delete(key);
    });
  };
  const does = (entry: ChainEntry) => ({ ...entry, id: '', name: '', note: '', tags: [] });
  pair((a, b) => a.kind === b.kind && a.name === b.name && isSame(does(a), does(b)));
  pair((a, b) => a.kind === b.kind && a.name === b.name);
  pair((a, b) => isSame(does(a), does(b)));
  return found;
}

/** An order of all moves with only safe states between them; null if none was found. */
function safeOrder(plan: Plan, isSafe: (chain: Chain) => boolean): readonly Move[] | null {
  const { moves } = plan;
  /** Sets of moves from which no safe way leads on, or whose state is not safe itself. */
  const blind = new Set<string>();
  let states = 0;
  const goOn = (done: ReadonlySet<Move>): readonly Move[] | null => {
    if (done.size === moves.length) return [];
    for (const move of moves) {
      if (done.has(move)) continue;
      const next = new Set([...done, move]);
      const key = moves.map((one) => (next.has(one) ? '1' : '0')).join('');
      if (blind.has(key) || states >= MOST_STATES) continue;
      states++;
      const rest = next.size === moves.length || isSafe(plan.chainOf(plan.stateAfter(next))) ? goOn(next) : null;
      if (rest) return [move, ...rest];
      blind.add(key);
    }
    return null;
  };
  return goOn(new Set());
}

/** What a chain does with an unknown message, as far as safety is concerned. */
interface Effects {
  /** Delivered or sent on. */
  readonly kept: Formula;
  readonly inInbox: Formula;
  readonly sent: ReadonlyMap<string, Formula>;
}

class Safety {
  readonly #knowledge: Knowledge;

  constructor(
    readonly from: Chain,
    readonly to: Chain,
    readonly settings: StepsSettings,
  ) {
    this.#knowledge = settings.knowledge ?? new Knowledge();
  }

  isSafe(state: Chain): boolean {
    if (this.settings.isUnsafe?.(state)) return false;
    const { known, chains } = this.#knowledge.lower(this.from, this.to, state);
    const { formulas } = known.lowering;
    const [first, last, now] = chains.map(({ fates }): Effects => {
      const sent = new Map([...fates].filter(([part]) => part.startsWith('redirect ')));
      const filed = [...fates].flatMap(([part, when]) => (part.startsWith('folder ') ? [when] : []));
      const inInbox = fates.get(`folder ${INBOX}`) ?? formulas.or();
      return { kept: formulas.or(...filed, ...sent.values()), inInbox, sent };
    }) as [Effects, Effects, Effects];
    const lost = formulas.and(not(now.kept), first.kept, last.kept);
    const hidden = formulas.and(not(now.inInbox), first.inInbox, last.inInbox);
    const leaked = Array.from(now.sent, ([part, when]) => {
      const there = [first, last].map(({ sent }) => sent.get(part)).filter((sent) => sent !== undefined);
      return formulas.and(when, ...there.map(not));
    });
    return [lost, hidden, ...leaked].every(
      (formula) => possibleWithin(known.solver, [formula], COMPARISON, this.#knowledge.budget).answer === 'impossible',
    );
  }
}

/** The same of stored mail: whether some message is dropped, sent to an address, or kept from the inbox as in neither end. */
export function isWorse({ fates, count }: Flow, ends: readonly Flow[]): boolean {
  const none = new Bitmap(count);
  const among = (all: readonly Bitmap[]) => all.reduce((left, right) => left.and(right));
  const lost = ends.reduce((left, end) => left.without(end.fates.dropped()), fates.dropped());
  const inbox = (flow: Flow['fates']) => flow.folders.get(INBOX)?.messages ?? none;
  const hidden = among(ends.map((end) => inbox(end.fates))).without(inbox(fates));
  const leaks = [...fates.redirects].some(([address, sent]) => {
    return !ends.reduce((left, end) => left.without(end.fates.redirects.get(address) ?? none), sent).isEmpty();
  });
  return leaks || !lost.isEmpty() || !hidden.isEmpty();
}

/**
 * A message to try a step with: one that the rule acts on once all is done or, if it is gone or off then, did act on
 * before; null if none is known.
 */
export function maybeTestOf({ first, last }: Step, from: Chain, to: Chain, reachOf: ReachOf): Witness | null {
  const isLasting = last !== null && elementAt(to.entries, last).on;
  const place = isLasting ? last : first;
  if (place === null) return null;
  const answer = reachOf(isLasting ? to : from).canFire(place);
  return answer.answer === 'possible' ? answer.witness : null;
}

export type ReachOf = (chain: Chain) => Reach;

/** Keeps what is known of each chain. */
export function reachesOf(knowledge: Knowledge): ReachOf {
  const known = new Map<Chain, Reach>();
  return (chain) => {
    const reach = known.get(chain) ?? new Reach(chain, knowledge);
    known.set(chain, reach);
    return reach;
  };
}
