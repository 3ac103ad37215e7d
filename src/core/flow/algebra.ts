import type { Algebra } from '../fates/algebra';
import { Bitmap } from './bitmap';

/**
 * Sets of messages as an algebra. Most rules fire for few messages: where a set is known to have members in few words only, no more than
 * those are looked at (measured: a flow takes a fraction of the time).
 */
export class BitmapAlgebra implements Algebra<Bitmap> {
  readonly none: Bitmap;
  readonly all: Bitmap;
  /** The words that may hold members, of sets that are not changed any more. */
  readonly #places = new WeakMap<Bitmap, Uint32Array>();

  constructor(readonly count: number) {
    this.none = new Bitmap(count);
    this.all = Bitmap.full(count);
    this.#places.set(this.none, new Uint32Array(0));
  }

  /** Notes where a set has its members. */
  sparse(set: Bitmap, places: Uint32Array): Bitmap {
    this.#places.set(set, places);
    return set;
  }

  and(a: Bitmap, b: Bitmap): Bitmap {
    const places = this.#places.get(b);
    if (places) return this.sparse(a.andAt(b, places), places);
    const others = this.#places.get(a);
    return others ? this.sparse(b.andAt(a, others), others) : a.and(b);
  }

  or(a: Bitmap, b: Bitmap): Bitmap {
    return a.or(b);
  }

  without(a: Bitmap, b: Bitmap): Bitmap {
    const places = this.#places.get(b);
    if (!places) return a.without(b);
    const rest = a.copy();
    rest.removeAll(b, places);
    return rest;
  }

  isNone(a: Bitmap): boolean {
    const places = this.#places.get(a);
    return places ? !a.hasAny(places) : a.isEmpty();
  }

  begin(): Bitmap {
    return new Bitmap(this.count);
  }

  adding(collection: Bitmap, more: Bitmap): Bitmap {
    collection.addAll(more, this.#placesOf(more));
    return collection;
  }

  removing(collection: Bitmap, less: Bitmap): Bitmap {
    collection.removeAll(less, this.#placesOf(less));
    return collection;
  }

  replacing(collection: Bitmap, where: Bitmap, model: Bitmap): Bitmap {
    collection.takeFrom(model, where, this.#placesOf(where));
    return collection;
  }

  /** Not kept for sets of which it was not said: they may be collections, which change. */
  #placesOf(set: Bitmap): Uint32Array {
    return this.#places.get(set) ?? set.places();
  }
}
