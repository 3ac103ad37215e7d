import { elementAt } from '../text/lookup';
import { amongFew, bitsOf, type Few, fewOf, placeOf, putAt, union, unpacked } from './few-words';

/**
 * A set of messages, one bit each; bits beyond `size` are always zero. Operations return a new bitmap, except those
 * named `add`, `keep`, `remove` or `take`, which change it in place.
 *
 * It is held in one of three forms, the same to all who use it: all its words; only the words that have members (most
 * rules match few messages); or as a later set and the words in which that one differs, see `shrunk`.
 */
export class Bitmap {
  #words: Uint32Array | null;
  #few: Few | null = null;
  #later: Later | null = null;
  /** Number of members, or `UNKNOWN`. */
  #count = UNKNOWN;
  /** Whether its words belong to a series of sets that shrinks. */
  #isSeries = false;

  constructor(
    readonly size: number,
    words?: Uint32Array,
  ) {
    this.#words = words ?? new Uint32Array((size + 31) >>> 5);
  }

  static full(size: number): Bitmap {
    const words = new Uint32Array((size + 31) >>> 5).fill(0xffffffff);
    const rest = size & 31;
    if (rest > 0) words[words.length - 1] = 2 ** rest - 1;
    return new Bitmap(size, words);
  }

  static of(size: number, members: Iterable<number>): Bitmap {
    const some = new Bitmap(size);
    for (const member of members) some.add(member);
    return some;
  }

  static #ofFew(size: number, few: Few): Bitmap {
    const some = new Bitmap(size, NO_WORDS);
    some.#words = null;
    some.#few = few;
    return some;
  }

  /** All its words, to be read only. */
  get words(): Uint32Array {
    if (this.#words) return this.#words;
    return this.#few ? unpacked(this.#few, this.#length) : this.#earlier();
  }

  /** Octets in memory, about. */
  get octets(): number {
    return this.#few ? 8 * this.#few.places.length : 4 * this.#length;
  }

  /** The same set, held by the words that have members if these are few. */
  compact(): Bitmap {
    if (!this.#words || this.#length < LEAST) return this;
    const few = fewOf(this.#words, this.#length >>> FEW);
    return few ? Bitmap.#ofFew(this.size, few) : this;
  }

  get #length(): number {
    return (this.size + 31) >>> 5;
  }

  /** Its words, to be changed in place. */
  #own(): Uint32Array {
    if (this.#isSeries) throw new Error('a set of a series is not changed in place');
    this.#count = UNKNOWN;
    if (this.#words) return this.#words;
    this.#words = this.words;
    this.#few = null;
    this.#later = null;
    return this.#words;
  }

  add(member: number): void {
    const words = this.#own();
    const word = member >>> 5;
    words[word] = (words[word] ?? 0) | (1 << (member & 31));
  }

  has(member: number): boolean {
    const few = this.#few;
    const bit = 1 << (member & 31);
    if (!few) return ((this.words[member >>> 5] ?? 0) & bit) !== 0;
    const at = placeOf(few.places, member >>> 5);
    return few.places[at] === member >>> 5 && ((few.words[at] ?? 0) & bit) !== 0;
  }

  // The loops are written out: one loop that calls a function for each word makes a flow four times as slow (measured).

  and(other: Bitmap): Bitmap {
    this.#check(other);
    const [few, rest] = this.#fewest(other);
    if (few) return Bitmap.#ofFew(this.size, amongFew(few, rest.#wordsAt(few.places), 0));
    const words = new Uint32Array(this.#length);
    const [mine, theirs] = [this.words, other.words];
    for (let at = 0; at < words.length; at++) words[at] = (mine[at] ?? 0) & (theirs[at] ?? 0);
    return new Bitmap(this.size, words);
  }

  or(other: Bitmap): Bitmap {
    this.#check(other);
    if (this.#few && other.#few) return this.#orFew(this.#few, other.#few);
    if (this.#few) return other.or(this);
    const all = this.copy();
    all.addEvery(other);
    return all;
  }

  #orFew(mine: Few, theirs: Few): Bitmap {
    const both = union(mine, theirs);
    if (both.places.length <= this.#length >>> FEW) return Bitmap.#ofFew(this.size, both);
    return new Bitmap(this.size, unpacked(both, this.#length));
  }

  /** The difference. */
  without(other: Bitmap): Bitmap {
    this.#check(other);
    const few = this.#few;
    if (few) return Bitmap.#ofFew(this.size, amongFew(few, other.#wordsAt(few.places), ALL_BITS));
    const rest = this.copy();
    rest.remove(other);
    return rest;
  }

  /**
   * The difference, for a series of sets of which each is smaller than the one before and mostly the last is used: the new
   * one takes over the words, and this one keeps in which it differs. It is the same set as before.
   */
  shrunk(other: Bitmap): Bitmap {
    this.#check(other);
    const few = other.#few;
    const words = this.#words;
    if (!few || !words) return this.without(other);
    const next = this.#isSeries ? new Bitmap(this.size, words) : this.copy();
    next.#isSeries = true;
    const { places } = few;
    const before = new Uint32Array(places.length);
    const own = next.#words ?? words;
    let removed = 0;
    for (let index = 0; index < places.length; index++) {
      const at = places[index] ?? 0;
      const was = own[at] ?? 0;
      const gone = was & (few.words[index] ?? 0);
      before[index] = was;
      own[at] = was & ~gone;
      removed += bitsOf(gone);
    }
    next.#count = this.count() - removed;
    if (this.#isSeries) {
      this.#later = { set: next, differs: { places, words: before } };
      this.#words = null;
    }
    return next;
  }

  /** The symmetric difference. */
  difference(other: Bitmap): Bitmap {
    this.#check(other);
    const words = new Uint32Array(this.#length);
    const [mine, theirs] = [this.words, other.words];
    for (let at = 0; at < words.length; at++) words[at] = (mine[at] ?? 0) ^ (theirs[at] ?? 0);
    return new Bitmap(this.size, words);
  }

  /** The intersection, in place. */
  keep(other: Bitmap): void {
    this.#check(other);
    const [mine, theirs] = [this.#own(), other.words];
    for (let at = 0; at < mine.length; at++) mine[at] = (mine[at] ?? 0) & (theirs[at] ?? 0);
  }

  addEvery(other: Bitmap): void {
    this.#check(other);
    const mine = this.#own();
    if (other.#few) {
      const { places, words } = other.#few;
      for (let index = 0; index < places.length; index++) {
        const at = places[index] ?? 0;
        mine[at] = (mine[at] ?? 0) | (words[index] ?? 0);
      }
      return;
    }
    const theirs = other.words;
    for (let at = 0; at < mine.length; at++) mine[at] = (mine[at] ?? 0) | (theirs[at] ?? 0);
  }

  /** Adds what is in one of two sets and not in the other. */
  addDifference(a: Bitmap, b: Bitmap): void {
    this.#check(a);
    this.#check(b);
    const mine = this.#own();
    const [one, other] = [a.words, b.words];
    for (let at = 0; at < mine.length; at++) mine[at] = (mine[at] ?? 0) | ((one[at] ?? 0) ^ (other[at] ?? 0));
  }

  remove(other: Bitmap): void {
    this.#check(other);
    const mine = this.#own();
    if (other.#few) {
      const { places, words } = other.#few;
      for (let index = 0; index < places.length; index++) {
        const at = places[index] ?? 0;
        mine[at] = (mine[at] ?? 0) & ~(words[index] ?? 0);
      }
      return;
    }
    const theirs = other.words;
    for (let at = 0; at < mine.length; at++) mine[at] = (mine[at] ?? 0) & ~(theirs[at] ?? 0);
  }

  /** Removes the members from `start` to before `end`. */
  removeRange(start: number, end: number): void {
    const words = this.#own();
    for (let at = start; at < end; ) {
      if ((at & 31) === 0 && at + 32 <= end) {
        words[at >>> 5] = 0;
        at += 32;
      } else {
        words[at >>> 5] = (words[at >>> 5] ?? 0) & ~(1 << (at & 31));
        at++;
      }
    }
  }

  /** Copies `model` for the members of `among`. */
  takeFrom(model: Bitmap, among: Bitmap): void {
    this.#check(among);
    const mine = this.#own();
    const theirs = model.words;
    if (among.#few) {
      const { places, words } = among.#few;
      for (let index = 0; index < places.length; index++) {
        const at = places[index] ?? 0;
        const within = words[index] ?? 0;
        mine[at] = ((mine[at] ?? 0) & ~within) | ((theirs[at] ?? 0) & within);
      }
      return;
    }
    const mask = among.words;
    for (let at = 0; at < mine.length; at++) {
      const within = mask[at] ?? 0;
      mine[at] = ((mine[at] ?? 0) & ~within) | ((theirs[at] ?? 0) & within);
    }
  }

  /** A set of its own, to be changed. */
  copy(): Bitmap {
    return new Bitmap(this.size, this.#words ? this.#words.slice() : this.#few ? this.words : this.words.slice());
  }

  not(): Bitmap {
    return Bitmap.full(this.size).without(this);
  }

  isEmpty(): boolean {
    if (this.#count !== UNKNOWN) return this.#count === 0;
    const words = this.#few?.words ?? this.words;
    for (let at = 0; at < words.length; at++) if (words[at] !== 0) return false;
    return true;
  }

  meets(other: Bitmap): boolean {
    this.#check(other);
    if (this.#few || other.#few) return !this.and(other).isEmpty();
    const [mine, theirs] = [this.words, other.words];
    for (let at = 0; at < mine.length; at++) {
      if (((mine[at] ?? 0) & (theirs[at] ?? 0)) !== 0) return true;
    }
    return false;
  }

  count(): number {
    if (this.#count === UNKNOWN) {
      let sum = 0;
      for (const word of this.#few?.words ?? this.words) if (word !== 0) sum += bitsOf(word);
      this.#count = sum;
    }
    return this.#count;
  }

  /** Members in ascending order. */
  *members(): Generator<number> {
    const places = this.#few?.places ?? null;
    const words = this.#few?.words ?? this.words;
    for (let at = 0; at < words.length; at++) {
      const start = (places?.[at] ?? at) << 5;
      for (let word = words[at] ?? 0; word !== 0; ) {
        const bit = 31 - Math.clz32(word & -word);
        yield start + bit;
        word &= word - 1;
      }
    }
  }

  /** At most `limit` members, ascending. */
  first(limit: number): number[] {
    const members: number[] = [];
    for (const member of this.members()) {
      if (members.length >= limit) break;
      members.push(member);
    }
    return members;
  }

  /** The one with the fewest words that is held by these, and the other one. */
  #fewest(other: Bitmap): [Few, Bitmap] | [null, null] {
    const [mine, theirs] = [this.#few, other.#few];
    if (mine && (!theirs || mine.places.length <= theirs.places.length)) return [mine, other];
    return theirs ? [theirs, this] : [null, null];
  }

  /** Its words at these places, which are ascending. */
  #wordsAt(places: Uint32Array): Uint32Array {
    const words = new Uint32Array(places.length);
    // A set is mostly asked for the last time when the next one of its series was just made.
    const later = this.#later;
    const last = later && (later.set.#words as Uint32Array | null);
    const all = this.#few ? null : (last ?? this.words);
    if (all) for (let index = 0; index < places.length; index++) words[index] = all[places[index] ?? 0] ?? 0;
    const some = this.#few ?? (last && later ? later.differs : null);
    if (some) putAt(words, places, some);
    return words;
  }

  /** The words of a set that is held as a later one. */
  #earlier(): Uint32Array {
    const steps: Bitmap[] = [];
    let last: Bitmap = this;
    for (; last.#later; last = last.#later.set) steps.push(last);
    const words = last.words.slice();
    for (let at = steps.length - 1; at >= 0; at--) {
      const step = elementAt(steps, at);
      const later = step.#later;
      if (!later) continue;
      const { places, words: before } = later.differs;
      for (let index = 0; index < places.length; index++) words[places[index] ?? 0] = before[index] ?? 0;
      // Others that are asked for do not have to go back all the way.
      if (at > 0 && at % STEPS === 0) step.#settle(words.slice());
    }
    this.#settle(words);
    return words;
  }

  #settle(words: Uint32Array): void {
    this.#words = words;
    this.#later = null;
    this.#isSeries = false;
  }

  #check(other: Bitmap): void {
    if (other.size !== this.size) throw new Error(`bitmaps of ${this.size} and ${other.size} messages`);
  }
}

const UNKNOWN = -1;
/** A set is held by its words with members if these are at most this power of two less than all. */
const FEW = 3;
/** Sets of fewer words are held by all of them. */
const LEAST = 64;
/** After this many steps back in a series the set that was passed is kept. */
const STEPS = 32;
const NO_WORDS = new Uint32Array(0);
const ALL_BITS = 0xffffffff;

/** A later set of a series, and the words of the earlier one in which it differs. */
interface Later {
  readonly set: Bitmap;
  readonly differs: Few;
}
