/** The indexes of words, ascending, and the words. */
export interface Few {
  readonly places: Uint32Array;
  readonly words: Uint32Array;
}

export function unpacked({ places, words }: Few, length: number): Uint32Array {
  const all = new Uint32Array(length);
  for (let index = 0; index < places.length; index++) all[places[index] ?? 0] = words[index] ?? 0;
  return all;
}

/** The words that have members; null if they are more than `most`. */
export function fewOf(all: Uint32Array, most: number): Few | null {
  let found = 0;
  for (let at = 0; at < all.length; at++) if (all[at] !== 0) found++;
  if (found > most) return null;
  const [places, words] = [new Uint32Array(found), new Uint32Array(found)];
  let next = 0;
  for (let at = 0; next < found; at++) {
    const word = all[at] ?? 0;
    if (word === 0) continue;
    places[next] = at;
    words[next++] = word;
  }
  return { places, words };
}

/**
 * The intersection with a set that has these words at the same places, or with `but` all bits, with what is outside that
 * set. Only words with members remain.
 */
export function amongFew({ places, words }: Few, theirs: Uint32Array, but: number): Few {
  const [those, kept] = [new Uint32Array(places.length), new Uint32Array(places.length)];
  let found = 0;
  for (let index = 0; index < places.length; index++) {
    const both = (words[index] ?? 0) & ((theirs[index] ?? 0) ^ but);
    if (both === 0) continue;
    those[found] = places[index] ?? 0;
    kept[found++] = both;
  }
  return cut(those, kept, found);
}

export function union(mine: Few, theirs: Few): Few {
  const most = mine.places.length + theirs.places.length;
  const [places, words] = [new Uint32Array(most), new Uint32Array(most)];
  let [found, here, there] = [0, 0, 0];
  while (here < mine.places.length || there < theirs.places.length) {
    const [a, b] = [mine.places[here] ?? Infinity, theirs.places[there] ?? Infinity];
    places[found] = Math.min(a, b);
    words[found++] = (a <= b ? (mine.words[here++] ?? 0) : 0) | (b <= a ? (theirs.words[there++] ?? 0) : 0);
  }
  return cut(places, words, found);
}

/** The first of them; copied if most of the room would be empty. */
function cut(places: Uint32Array, words: Uint32Array, count: number): Few {
  if (count === places.length) return { places, words };
  if (2 * count < places.length) return { places: places.slice(0, count), words: words.slice(0, count) };
  return { places: places.subarray(0, count), words: words.subarray(0, count) };
}

/** Puts in the words of those places that are among these; both are ascending. */
export function putAt(words: Uint32Array, places: Uint32Array, some: Few): void {
  let next = 0;
  for (let index = 0; index < places.length; index++) {
    const at = places[index] ?? 0;
    while (next < some.places.length && (some.places[next] ?? 0) < at) next++;
    if (some.places[next] === at) words[index] = some.words[next] ?? 0;
  }
}

/** The first index with at least this place. */
export function placeOf(places: Uint32Array, place: number): number {
  let [low, high] = [0, places.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((places[middle] ?? 0) < place) low = middle + 1;
    else high = middle;
  }
  return low;
}

export function bitsOf(word: number): number {
  let bits = word - ((word >>> 1) & 0x55555555);
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333);
  return (((bits + (bits >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}
