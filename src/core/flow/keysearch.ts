/**
 * Finds which of many keys occur in a text in one pass over it: the automaton of Aho and Corasick, "Efficient string
 * matching: an aid to bibliographic search", CACM 18(6), 1975. Characters that stand in no key are one class, so
 * that the table stays small whatever the alphabet.
 */
export class KeySearch {
  /** The class of each character of US-ASCII, and of all others that stand in a key. */
  readonly #ascii = new Uint16Array(128);
  readonly #others = new Map<number, number>();
  readonly #width: number;
  /** Next state for state * width + class, completed with the failure links. */
  readonly #next: Int32Array;
  /** Keys that end in each state, those of its suffixes included; null where there are none. */
  readonly #found: (readonly number[] | null)[];
  readonly #everywhere: readonly number[];

  constructor(keys: readonly string[]) {
    let classes = 0;
    for (const key of keys) {
      for (let at = 0; at < key.length; at++) {
        const code = key.charCodeAt(at);
        if (this.#classOf(code) === 0) this.#setClass(code, ++classes);
      }
    }
    this.#width = classes + 1;
    const states = keys.reduce((sum, key) => sum + key.length, 1);
    this.#next = new Int32Array(states * this.#width);
    const found: number[][] = [[]];
    this.#everywhere = keys.flatMap((key, index) => (key === '' ? [index] : []));
    this.#plant(keys, found);
    this.#link(found);
    this.#found = found.map((list) => (list.length > 0 ? list : null));
  }

  /** Calls `report` with the index of each key that occurs, once or more often. */
  search(text: string, report: (key: number) => void): void {
    for (const key of this.#everywhere) report(key);
    const [ascii, next, width] = [this.#ascii, this.#next, this.#width];
    let state = 0;
    for (let at = 0; at < text.length; at++) {
      const code = text.charCodeAt(at);
      const step = code < 128 ? (ascii[code] as number) : (this.#others.get(code) ?? 0);
      state = next[state * width + step] as number;
      if (state === 0) continue;
      const found = this.#found[state];
      if (found) for (const key of found) report(key);
    }
  }

  #classOf(code: number): number {
    return code < 128 ? (this.#ascii[code] as number) : (this.#others.get(code) ?? 0);
  }

  #setClass(code: number, group: number): void {
    if (code < 128) this.#ascii[code] = group;
    else this.#others.set(code, group);
  }

  #plant(keys: readonly string[], found: number[][]): void {
    keys.forEach((key, index) => {
      if (key === '') return;
      let state = 0;
      for (let at = 0; at < key.length; at++) {
        const cell = state * this.#width + this.#classOf(key.charCodeAt(at));
        if (this.#next[cell] === 0) {
          this.#next[cell] = found.length;
          found.push([]);
        }
        state = this.#next[cell] as number;
      }
      found[state]?.push(index);
    });
  }

  /** Breadth first, so that the state a failure leads to is complete before it is needed. */
  #link(found: number[][]): void {
    const failure = new Int32Array(found.length);
    const queue: number[] = [];
    for (let step = 1; step < this.#width; step++) if (this.#next[step]) queue.push(this.#next[step] as number);
    for (let head = 0; head < queue.length; head++) {
      const state = queue[head] as number;
      const back = failure[state] as number;
      found[state]?.push(...(found[back] ?? []));
      for (let step = 1; step < this.#width; step++) {
        const cell = state * this.#width + step;
        const child = this.#next[cell] as number;
        const fallback = this.#next[back * this.#width + step] as number;
        if (child === 0) this.#next[cell] = fallback;
        else {
          failure[child] = fallback;
          queue.push(child);
        }
      }
    }
  }
}
