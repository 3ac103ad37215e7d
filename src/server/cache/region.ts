import { LRUCache } from 'lru-cache';

interface Settings<V> {
  /** As `/api/health` reports it. */
  readonly name: string;
  /**
   * Most octets of all values together. A value that exceeds this alone is still kept, since it took longest to
   * compute.
   */
  readonly most: number;
  /** About how many octets a value takes. */
  readonly weigh: (value: V) => number;
  /** Most values; unlimited if absent. */
  readonly entries?: number;
}

/** The size of a region, and its limit. */
export interface RegionState {
  readonly name: string;
  readonly entries: number;
  /** Octets, about. */
  readonly held: number;
  readonly most: number;
}

const regions: { readonly state: () => RegionState }[] = [];

/** A cache of computed values of one kind; the least recently used are evicted. */
export class Region<V extends object> {
  readonly #held: LRUCache<string, V>;

  constructor({ name, most, weigh, entries }: Settings<V>) {
    this.#held = new LRUCache({
      maxSize: most,
      sizeCalculation: (value) => Math.min(most, Math.max(1, Math.ceil(weigh(value)))),
      ...(entries === undefined ? {} : { max: entries }),
    });
    regions.push({ state: () => ({ name, entries: this.#held.size, held: this.#held.calculatedSize, most }) });
  }

  get(key: string): V | undefined {
    return this.#held.get(key);
  }

  set(key: string, value: V): void {
    this.#held.set(key, value);
  }
}

/** Of all regions in this thread. */
export const regionStates = (): RegionState[] => regions.map(({ state }) => state());
