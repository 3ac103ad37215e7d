import { type Atom, atomKey, evaluateAtoms } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import type { AtomBitmaps } from '../flow/conditions';
import { outcomePrefix } from '../flow/opaque';
import { atomsOf } from '../flow/program';
import type { Clock } from '../mail/arrival';
import type { Comparison } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import type { Witness } from '../reason/witness';
import type { Chain, ChainEntry } from '../rules/rule';
import { ARRIVAL } from '../sieve/interpret/world';

/** Most messages kept from one audit to the next. */
const MOST = 5000;
const MOST_COMPARISONS = 20_000;

/**
 * What an audit has learned, for the next one after an edit: facts about formulas, example messages, which tests they
 * match, and what the interpreter was seen to do with them. Only what the edit changed is computed again.
 */
export class AuditMemory {
  readonly knowledge = new Knowledge();
  #witnesses: Witness[] = [];
  readonly #keys = new Set<string>();
  /** The texts of kept messages. */
  #kept: ReadonlySet<string> = new Set();
  #columns = new MemoryColumns();
  readonly #atoms = new Map<string, Bitmap>();
  readonly #confirmed = new Map<Witness, Set<string>>();
  readonly #comparisons = new Map<string, Comparison>();
  readonly #contents = new Map<string, number>();
  readonly #entries = new WeakMap<ChainEntry, number>();
  #clock: Clock = ARRIVAL;

  /**
   * To be called once for each audit; `clock` is the current date that rules see, `kept` are messages that the user
   * tries on the chain; `checkpoint` may throw to cancel.
   */
  begin(clock: Clock, kept: readonly Witness[], checkpoint: () => void): void {
    this.#prepare(clock, checkpoint);
    this.#kept = new Set(kept.map(({ open }) => open));
    for (const witness of kept) this.add(witness);
  }

  #prepare(clock: Clock, checkpoint: () => void): void {
    this.knowledge.checkpoint = checkpoint;
    if (clock.fixed !== this.#clock.fixed || clock.otherwise !== this.#clock.otherwise) {
      this.#atoms.clear();
      this.#confirmed.clear();
    }
    this.#clock = clock;
    if (this.#witnesses.length <= MOST) return;
    const latest = this.#witnesses.slice(-MOST / 2);
    this.#witnesses = [];
    this.#columns = new MemoryColumns();
    this.#keys.clear();
    this.#atoms.clear();
    this.#confirmed.clear();
    for (const witness of latest) this.add(witness);
  }

  /** In the order they were found. */
  get witnesses(): readonly Witness[] {
    return this.#witnesses;
  }

  /** Whether the user keeps this message to try on the chain. */
  isKept({ open }: Pick<Witness, 'open'>): boolean {
    return this.#kept.has(open);
  }

  add(witness: Witness): void {
    const { open, message, envelope } = witness;
    const key = JSON.stringify([open, message.size, envelope]);
    if (this.#keys.has(key)) return;
    this.#keys.add(key);
    this.#witnesses.push(witness);
    this.#columns.add(message, envelope);
  }

  /** Equal chains have equal results, whatever their rules are called. */
  contentsOf({ entries }: Chain): string {
    return entries.map((entry) => this.#contentOf(entry)).join();
  }

  comparison(key: string): Comparison | undefined {
    return this.#comparisons.get(key);
  }

  addComparison(key: string, comparison: Comparison): void {
    if (this.#comparisons.size >= MOST_COMPARISONS) this.#comparisons.clear();
    this.#comparisons.set(key, comparison);
  }

  #contentOf(entry: ChainEntry): number {
    const known = this.#entries.get(entry);
    if (known !== undefined) return known;
    const { id: _id, name: _name, note: _note, ...rest } = entry;
    const key = JSON.stringify(rest);
    const number = this.#contents.get(key) ?? this.#contents.size;
    this.#contents.set(key, number);
    this.#entries.set(entry, number);
    return number;
  }

  /** The example messages that match the tests of a chain. */
  atomsFor(chain: Chain): AtomBitmaps {
    const atoms = new Map(atomsOf(chain).map((atom) => [atomKey(atom), atom]));
    const count = this.#witnesses.length;
    const byStart = new Map<number, Atom[]>();
    for (const [key, atom] of atoms) {
      const known = this.#atoms.get(key)?.size ?? 0;
      if (known === count && count > 0) continue;
      // The outcomes of script blocks have bitmaps of their own, so blocks are run on all messages again.
      const start = atom.test === 'script' ? 0 : known;
      byStart.set(start, [...(byStart.get(start) ?? []), atom]);
    }
    for (const [start, group] of byStart) {
      const columns = start === 0 ? this.#columns : columnsOf(this.#witnesses.slice(start));
      for (const [key, found] of evaluateAtoms(group, columns, () => this.knowledge.checkpoint(), this.#clock)) {
        this.#atoms.set(key, joined(this.#atoms.get(key), start, found));
      }
    }
    const scripts = [...atoms].filter(([, { test }]) => test === 'script').map(([key]) => outcomePrefix(key));
    const wanted = [...this.#atoms].filter(([key, { size }]) => {
      return size === count && (atoms.has(key) || scripts.some((prefix) => key.startsWith(prefix)));
    });
    return new Map(wanted);
  }

  /** Whether the interpreter was seen to do all this with a message. */
  wasSeen(witness: Witness, steps: readonly string[]): boolean {
    const seen = this.#confirmed.get(witness);
    return seen !== undefined && steps.every((step) => seen.has(step));
  }

  addSeen(witness: Witness, steps: readonly string[]): void {
    const seen = this.#confirmed.get(witness) ?? new Set();
    for (const step of steps) seen.add(step);
    this.#confirmed.set(witness, seen);
  }
}

function columnsOf(witnesses: readonly Witness[]): MemoryColumns {
  const columns = new MemoryColumns();
  for (const { message, envelope } of witnesses) columns.add(message, envelope);
  return columns;
}

/** Combines results of the messages before `start` with those from there on. */
function joined(known: Bitmap | undefined, start: number, found: Bitmap): Bitmap {
  if (start === 0 || !known) return found;
  const all = Bitmap.of(start + found.size, known.members());
  for (const member of found.members()) all.add(start + member);
  return all;
}
