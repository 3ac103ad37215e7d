import { elementAt } from '../../text/lookup';
/** A heap of numbers by weight, the heaviest first, with the place of each member. */
export class Order {
  readonly #heap: number[] = [];
  /** The place of each number in the heap, or -1. */
  readonly #places: number[] = [];
  readonly #weights: number[] = [];
  /** Whether a number may be in the heap at all. */
  readonly #wanted: boolean[] = [];
  #among: readonly number[] = [];

  /** Numbers are added in ascending order from 0, each once; each is in the heap at first. */
  grow(): void {
    this.#weights.push(0);
    this.#places.push(-1);
    this.#wanted.push(true);
    this.put(this.#weights.length - 1);
  }

  /** Restricts the heap to these numbers. */
  restrictTo(numbers: readonly number[]): void {
    if (this.#among === numbers) return;
    for (const number of this.#heap) {
      this.#places[number] = -1;
      this.#wanted[number] = false;
    }
    this.#heap.length = 0;
    for (const number of this.#among) this.#wanted[number] = false;
    this.#among = numbers;
    for (const number of numbers) {
      this.#wanted[number] = true;
      this.put(number);
    }
  }

  put(number: number): void {
    if (elementAt(this.#places, number) >= 0 || !this.#wanted[number]) return;
    this.#places[number] = this.#heap.push(number) - 1;
    this.#rise(this.#heap.length - 1);
  }

  /** Removes and returns the heaviest; -1 if the heap is empty. */
  take(): number {
    const first = this.#heap[0];
    const last = this.#heap.pop();
    if (first === undefined || last === undefined) return -1;
    this.#places[first] = -1;
    if (last !== first) {
      this.#set(0, last);
      this.#sink(0);
    }
    return first;
  }

  weigh(number: number, more: number): void {
    this.#weights[number] = elementAt(this.#weights, number) + more;
    const place = elementAt(this.#places, number);
    if (place >= 0) this.#rise(place);
  }

  /** Scales all weights down by one factor before they overflow. */
  scale(factor: number): void {
    for (let number = 0; number < this.#weights.length; number++) {
      this.#weights[number] = elementAt(this.#weights, number) * factor;
    }
  }

  #set(place: number, number: number): void {
    this.#heap[place] = number;
    this.#places[number] = place;
  }

  /** The heavier first; ties by the smaller number. */
  #before(a: number, b: number): boolean {
    const [first, second] = [elementAt(this.#weights, a), elementAt(this.#weights, b)];
    return first > second || (first === second && a < b);
  }

  #rise(from: number): void {
    const number = elementAt(this.#heap, from);
    let place = from;
    while (place > 0) {
      const above = (place - 1) >> 1;
      if (!this.#before(number, elementAt(this.#heap, above))) break;
      this.#set(place, elementAt(this.#heap, above));
      place = above;
    }
    this.#set(place, number);
  }

  #sink(from: number): void {
    const number = elementAt(this.#heap, from);
    const { length } = this.#heap;
    let place = from;
    for (;;) {
      let below = 2 * place + 1;
      if (below >= length) break;
      if (below + 1 < length && this.#before(elementAt(this.#heap, below + 1), elementAt(this.#heap, below))) below++;
      if (!this.#before(elementAt(this.#heap, below), number)) break;
      this.#set(place, elementAt(this.#heap, below));
      place = below;
    }
    this.#set(place, number);
  }
}
