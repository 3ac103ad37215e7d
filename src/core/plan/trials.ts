import { onlyMarks } from '../audit/destinations';
import { type Destination, destinationKey, destinationOfKey } from '../fates/destination';
import { type Atom, atomKey } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { type AtomBitmaps, holds, trafficOf } from '../flow/conditions';
import { type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { type SingleRun, SingleRuns } from '../flow/single';
import { inContext } from '../rules/context';
import {
  type Chain,
  type ChainEntry,
  conditionOf,
  leavesOf,
  looksAtFlags,
  type Rule,
  type TestTree,
} from '../rules/rule';
import { fateKey } from '../sieve/interpret/fate';
import { joinedFrom } from './joined';

/** Evaluates tests over the stored mail, as bitmaps by `atomKey`. */
export type Evaluate = (atoms: readonly Atom[]) => AtomBitmaps;

/** Up to this many messages are run one by one, more all at once. */
const FEW = 20_000;

/** Tries variants of a chain on the stored mail. Tests that were not evaluated yet are, in one pass for all of them. */
export class Trials {
  readonly #atoms: Map<string, Bitmap>;
  readonly #single: SingleRuns;
  readonly #flows = new WeakMap<Chain, Flow>();
  readonly #runs = new WeakMap<Chain, SingleRun | { readonly run: null }>();
  readonly #matching = new WeakMap<Chain, Map<number, string>>();
  /** Of chains that cannot be run over single messages. */
  readonly #fates = new WeakMap<Chain, Map<number, string>>();
  readonly #prepared = new WeakSet<Chain>();
  readonly #evaluated = new WeakSet<ChainEntry>();
  readonly #concerned = new WeakMap<ChainEntry, Bitmap | null>();
  /** Destinations by fate, as `fateKey` writes it. */
  readonly #destinations = new Map<string, Placed>();
  readonly #places = new Map<string, Placed>();
  readonly #placesByChain = new WeakMap<Chain, readonly (Placed | undefined)[]>();

  /** `atoms` are those known so far; `checkpoint` is called often and may throw to cancel. */
  constructor(
    atoms: AtomBitmaps,
    readonly evaluate: Evaluate,
    readonly count: number,
    readonly checkpoint: () => void = () => {},
  ) {
    this.#atoms = new Map(atoms);
    this.#single = new SingleRuns(this.#atoms, count, checkpoint);
  }

  /** The messages that take part. */
  get traffic(): Bitmap | null {
    return trafficOf(this.#atoms);
  }

  /** Evaluates what these chains and tests need, so that running them needs nothing more. */
  prepare(chains: readonly Chain[], trees: readonly TestTree[] = []): void {
    const missing = new Map<string, Atom>();
    const want = (atom: Atom) => {
      const key = atomKey(atom);
      if (!this.#atoms.has(key)) missing.set(key, atom);
    };
    for (const chain of chains) {
      if (this.#prepared.has(chain)) continue;
      if (inContext(chain) !== chain) {
        for (const atom of atomsOf(chain)) want(atom);
        continue;
      }
      const fresh = chain.entries.filter((entry) => !this.#evaluated.has(entry));
      for (const atom of atomsOf({ entries: fresh, closing: '' })) want(atom);
    }
    for (const leaf of trees.flatMap(leavesOf)) if (leaf.test !== 'hasflag') want(leaf);
    const unknown = [...missing.values()].filter((atom) => !this.#join(atom));
    if (unknown.length > 0)
      for (const [key, bitmap] of this.evaluate(unknown)) if (!this.#atoms.has(key)) this.#atoms.set(key, bitmap);
    // Not before: a plan that is cancelled meanwhile leaves the rest to the next.
    for (const chain of chains) {
      if (this.#prepared.has(chain)) continue;
      this.#prepared.add(chain);
      if (inContext(chain) === chain) for (const entry of chain.entries) this.#evaluated.add(entry);
    }
  }

  /** A test with several keys matches what tests with some of them match (RFC 5228 section 2.7). */
  #join(atom: Atom): boolean {
    const key = atomKey(atom);
    if (this.#atoms.has(key)) return true;
    const parts = atom.test === 'script' ? null : joinedFrom(atom);
    if (!parts?.every((part) => this.#join(part))) return false;
    const bitmaps = parts.map((part) => this.#atoms.get(atomKey(part)) ?? new Bitmap(this.count));
    this.#atoms.set(
      key,
      bitmaps.reduce((all, one) => all.or(one)),
    );
    return true;
  }

  flow(chain: Chain): Flow {
    const known = this.#flows.get(chain);
    if (known) return known;
    this.prepare([chain]);
    const flow = runFlow(chain, this.#atoms, this.count, this.checkpoint);
    this.#flows.set(chain, flow);
    return flow;
  }

  /** The messages that match tests of the message alone. */
  holding(tree: TestTree): Bitmap {
    this.prepare([], [tree]);
    const found = holds(tree, this.#atoms, { count: this.count, flags: new Map() });
    return this.traffic ? found.and(this.traffic) : found;
  }

  /** Whether a message matches a rule, reached or not. */
  holds(rule: Rule, message: number): boolean {
    return this.#single.holds(rule, message);
  }

  /** The fate of one message, as `fateKey` writes it. */
  fateOf(chain: Chain, message: number): string {
    const run = this.#runOf(chain);
    if (run) return run(message);
    const fates = this.#fates.get(chain) ?? new Map<number, string>();
    this.#fates.set(chain, fates);
    const known = fates.get(message) ?? fateKey(this.flow(chain).fates.fateOf(message));
    fates.set(message, known);
    return known;
  }

  /** The ids of the entries that act on a message. */
  actingOn(chain: Chain, message: number): ReadonlySet<string> {
    const ids = new Set<string>();
    const run = this.#runOf(chain);
    if (run) run(message, ({ id }) => ids.add(id));
    else for (const { fired, entry } of this.flow(chain).entries) if (fired.has(message)) ids.add(entry.id);
    return ids;
  }

  /** The rules that match a message, reached or not, as one text; rules that only mark aside. */
  matching(chain: Chain, message: number): string {
    const texts = this.#matching.get(chain) ?? new Map<number, string>();
    this.#matching.set(chain, texts);
    const known = texts.get(message);
    if (known !== undefined) return known;
    const rules = chain.entries.filter((entry): entry is Rule => {
      return entry.kind === 'rule' && entry.on && !onlyMarks(entry);
    });
    const text = rules.flatMap((rule) => (this.holds(rule, message) ? rule.id : [])).join(' ');
    texts.set(message, text);
    return text;
  }

  /** Where one message ends; the same object for the same destination. */
  placeOf(chain: Chain, message: number): Placed {
    return this.#placed(this.fateOf(chain, message));
  }

  /** Where each message that takes part ends; computed once for a chain. */
  placesOf(chain: Chain): readonly (Placed | undefined)[] {
    const known = this.#placesByChain.get(chain);
    if (known) return known;
    const { traffic } = this;
    const places = Array.from({ length: this.count }, (_, message) =>
      traffic && !traffic.has(message) ? undefined : this.placeOf(chain, message),
    );
    this.#placesByChain.set(chain, places);
    return places;
  }

  #placed(fate: string): Placed {
    const known = this.#destinations.get(fate);
    if (known) return known;
    const destination = destinationOfKey(fate);
    const key = destinationKey(destination);
    const placed = this.#places.get(key) ?? { destination, key };
    this.#places.set(key, placed);
    this.#destinations.set(fate, placed);
    return placed;
  }

  /** The messages whose fate differs; only those in `among` are compared, if given. */
  changed(before: Chain, after: Chain, among?: Bitmap): number[] {
    const isFew = among !== undefined && among.count() <= FEW;
    const [old, fresh] = isFew ? [this.#runOf(before), this.#runOf(after)] : [];
    if (isFew && old && fresh) return [...among.members()].filter((message) => old(message) !== fresh(message));
    const changed = this.flow(after).fates.differsFrom(this.flow(before).fates);
    return [...(among ? changed.and(among) : changed).members()];
  }

  #runOf(chain: Chain): SingleRun | null {
    const known = this.#runs.get(chain);
    if (known) return typeof known === 'function' ? known : null;
    this.prepare([chain]);
    const run = this.#single.maybeRun(chain);
    this.#runs.set(chain, run ?? { run: null });
    return run;
  }

  /** The messages that an entry concerns, reached or not; null where flags set by rules decide. */
  concerned(entry: ChainEntry): Bitmap | null {
    const known = this.#concerned.get(entry);
    if (known !== undefined) return known;
    const isUnknown = entry.kind === 'script' || looksAtFlags(conditionOf(entry));
    const found = isUnknown ? null : this.holding(conditionOf(entry));
    this.#concerned.set(entry, found);
    return found;
  }
}

export interface Placed {
  readonly destination: Destination;
  /** Equal for equal destinations. */
  readonly key: string;
}
