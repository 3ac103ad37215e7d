import { elementAt } from '../text/lookup';
/**
 * Finds which of many keys occur in a text in one pass: the automaton of Aho and Corasick, "Efficient string matching:
 * an aid to bibliographic search", CACM 18(6), 1975. Characters in no key form one class, so the table stays small for
 * any alphabet. If the table would be large, a sparse table with failure links is used: slower for each character, but
 * with memory proportional to the keys.
 */
export class KeySearch {
  /** The class of each US-ASCII character, and of other characters in keys. */
  readonly #ascii = new Uint16Array(128);
  readonly #others = new Map<number, number>();
  readonly #width: number;
  /** The next state for state * width + class, with failure links resolved; null if the table would be large. */
  readonly #table: Int32Array | null;
  /** Null if there is a table. */
  readonly #steps: Steps;
  readonly #failure: Int32Array;
  /** The first key that ends in each state; -1 if none. */
  readonly #ends: Int32Array;
  /** The next equal key; -1 after the last. */
  readonly #same: Int32Array;
  /** For each state, its longest proper suffix in which a key ends; 0 if none. */
  readonly #shorter: Int32Array;
  /** The round in which the keys of a state were last reported, so that each is reported once for a text. */
  readonly #told: Uint32Array;
  #round = 0;
  readonly #everywhere: readonly number[];
  #count = 1;

  /** `largestTable` is in cells, of four octets each. */
  constructor(keys: readonly string[], largestTable = LARGEST_TABLE) {
    this.#everywhere = keys.flatMap((key, index) => (key === '' ? [index] : []));
    this.#width = 1 + this.#classify(keys);
    const most = keys.reduce((sum, key) => sum + key.length, 1);
    const isSmall = most * this.#width <= largestTable;
    this.#table = isSmall ? new Int32Array(most * this.#width) : null;
    this.#steps = new Steps(isSmall ? 0 : most);
    this.#ends = new Int32Array(most).fill(-1);
    this.#same = new Int32Array(keys.length).fill(-1);
    keys.forEach((key, index) => {
      if (key === '') return;
      const end = this.#plant(key);
      this.#same[index] = elementAt(this.#ends, end);
      this.#ends[end] = index;
    });
    this.#failure = new Int32Array(this.#count);
    this.#shorter = new Int32Array(this.#count);
    this.#told = new Uint32Array(this.#count);
    this.#link();
  }

  /** Calls `report` with the index of each key that occurs. */
  search(text: string, report: (key: number) => void): void {
    for (const key of this.#everywhere) report(key);
    this.#round++;
    if (this.#table) this.#searchTable(text, this.#table, report);
    else this.#searchSteps(text, this.#steps, report);
  }

  #searchTable(text: string, table: Int32Array, report: (key: number) => void): void {
    const [ascii, width] = [this.#ascii, this.#width];
    let state = 0;
    for (let at = 0; at < text.length; at++) {
      const code = text.charCodeAt(at);
      const step = code < 128 ? elementAt(ascii, code) : (this.#others.get(code) ?? 0);
      state = elementAt(table, state * width + step);
      if (state !== 0) this.#tell(state, report);
    }
  }

  #searchSteps(text: string, steps: Steps, report: (key: number) => void): void {
    let state = 0;
    for (let at = 0; at < text.length; at++) {
      state = this.#follow(steps, state, this.#classOf(text.charCodeAt(at)));
      if (state !== 0) this.#tell(state, report);
    }
  }

  #follow(steps: Steps, from: number, step: number): number {
    for (let state = from; ; state = elementAt(this.#failure, state)) {
      const next = step === 0 ? 0 : steps.get(state * this.#width + step);
      if (next !== 0 || state === 0) return next;
    }
  }

  /** Reports the keys that end in a state and in its suffixes; a suffix already reported implies the rest. */
  #tell(state: number, report: (key: number) => void): void {
    for (let at = state; at !== 0 && this.#told[at] !== this.#round; at = elementAt(this.#shorter, at)) {
      this.#told[at] = this.#round;
      for (let key = elementAt(this.#ends, at); key >= 0; key = elementAt(this.#same, key)) report(key);
    }
  }

  /** Assigns a class to each character of the keys; returns the number of classes. */
  #classify(keys: readonly string[]): number {
    let classes = 0;
    for (const key of keys) {
      for (let at = 0; at < key.length; at++) {
        const code = key.charCodeAt(at);
        if (this.#classOf(code) !== 0) continue;
        if (code < 128) this.#ascii[code] = ++classes;
        else this.#others.set(code, ++classes);
      }
    }
    return classes;
  }

  #classOf(code: number): number {
    return code < 128 ? elementAt(this.#ascii, code) : (this.#others.get(code) ?? 0);
  }

  /** The state in which a key ends. */
  #plant(key: string): number {
    let state = 0;
    for (let at = 0; at < key.length; at++) {
      const cell = state * this.#width + this.#classOf(key.charCodeAt(at));
      let next = this.#table ? elementAt(this.#table, cell) : this.#steps.get(cell);
      if (next === 0) {
        next = this.#count++;
        if (this.#table) this.#table[cell] = next;
        else this.#steps.set(cell, next);
      }
      state = next;
    }
    return state;
  }

  /** Breadth first, so that the failure state is complete before it is needed. */
  #link(): void {
    const queue = new Int32Array(this.#count);
    let length = 0;
    const add = (state: number, failure: number) => {
      this.#failure[state] = failure;
      this.#shorter[state] = elementAt(this.#ends, failure) >= 0 ? failure : elementAt(this.#shorter, failure);
      queue[length++] = state;
    };
    const table = this.#table;
    if (!table) {
      // States are numbered in insertion order, so one walk over the steps lists the children of each.
      const children = this.#steps.byParent(this.#width, this.#count);
      children(0, (_step, child) => add(child, 0));
      for (let head = 0; head < length; head++) {
        const state = elementAt(queue, head);
        children(state, (step, child) => {
          add(child, this.#follow(this.#steps, elementAt(this.#failure, state), step));
        });
      }
      return;
    }
    for (let step = 1; step < this.#width; step++) if (table[step] !== 0) add(elementAt(table, step), 0);
    for (let head = 0; head < length; head++) {
      const state = elementAt(queue, head);
      const back = elementAt(this.#failure, state);
      for (let step = 1; step < this.#width; step++) {
        const cell = state * this.#width + step;
        const child = elementAt(table, cell);
        const fallback = elementAt(table, back * this.#width + step);
        if (child === 0) table[cell] = fallback;
        else add(child, fallback);
      }
    }
  }
}

const LARGEST_TABLE = 4 * 1024 * 1024;

/** A sparse table from cells to states: open addressing, less than half full. */
class Steps {
  readonly #cells: Float64Array;
  readonly #states: Int32Array;
  /** Bits of a hash beyond the slot number. */
  readonly #spare: number;

  constructor(most: number) {
    const bits = Math.ceil(Math.log2(2 * most + 1));
    const size = 2 ** bits;
    this.#cells = new Float64Array(size).fill(-1);
    this.#states = new Int32Array(size);
    this.#spare = 32 - bits;
  }

  /** 0 if the cell leads nowhere. */
  get(cell: number): number {
    return elementAt(this.#states, this.#slotOf(cell));
  }

  set(cell: number, state: number): void {
    const slot = this.#slotOf(cell);
    this.#cells[slot] = cell;
    this.#states[slot] = state;
  }

  #slotOf(cell: number): number {
    // The factor of Knuth's multiplicative hashing, 2^32 divided by the golden ratio.
    let slot = Math.imul(cell % 2 ** 32, 0x9e3779b1) >>> this.#spare;
    while (this.#cells[slot] !== cell && this.#cells[slot] !== -1) slot = (slot + 1) % this.#cells.length;
    return slot;
  }

  /** Calls back with the class and state of each child. */
  byParent(width: number, count: number): (parent: number, each: (step: number, child: number) => void) => void {
    const first = new Int32Array(count).fill(-1);
    const next = new Int32Array(count);
    const steps = new Int32Array(count);
    for (let slot = 0; slot < this.#cells.length; slot++) {
      const cell = elementAt(this.#cells, slot);
      if (cell < 0) continue;
      const child = elementAt(this.#states, slot);
      const parent = Math.floor(cell / width);
      steps[child] = cell % width;
      next[child] = elementAt(first, parent);
      first[parent] = child;
    }
    return (parent, each) => {
      for (let child = elementAt(first, parent); child >= 0; child = elementAt(next, child)) {
        each(elementAt(steps, child), child);
      }
    };
  }
}
