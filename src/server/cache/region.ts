import { LRUCache } from 'lru-cache';

interface Settings<V> {
  /** As `/api/health` tells it. */
  readonly name: string;
  /** Octets that its values may take together; one that takes more by itself is kept alone, since it is what takes longest to work out. */
  readonly most: number;
  /** About how many octets a value takes. */
  readonly weigh: (value: V) => number;
  /** The same for the number of values; any number where it is left out. */
  readonly entries?: number;
}

/** How much a region holds, and how much it may. */
export interface RegionState {
  readonly name: string;
  readonly entries: number;
  /** Octets, about. */
  readonly held: number;
  readonly most: number;
}

const regions: { readonly state: () => RegionState }[] = [];

/** Values of one kind that were worked out, of which those that were used last are kept. */
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

/** Of all regions of this thread. */
export const regionStates = (): RegionState[] => regions.map(({ state }) => state());
