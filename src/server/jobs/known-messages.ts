/** Words of an entry: three of the digest, the folder, and the number plus one; 0 for a free entry. */
const ENTRY = 5;
const BEGIN = 1024;

/**
 * Numbers of messages by digest and folder, in some 30 octets each: a map of strings takes hundreds for a million messages. 96 bits of
 * the digest distinguish messages.
 */
export class KnownMessages {
  readonly #folders = new Map<string, number>();
  #entries = new Uint32Array(BEGIN * ENTRY);
  #size = 0;

  /** Null if it was not added. */
  maybeNumber(digest: Uint8Array, folder: string): number | null {
    const at = place(this.#entries, wordsOf(digest, this.#folderOf(folder)));
    const number = this.#entries[at + ENTRY - 1] ?? 0;
    return number === 0 ? null : number - 1;
  }

  set(digest: Uint8Array, folder: string, number: number): void {
    if (2 * (this.#size + 1) > this.#entries.length / ENTRY) this.#grow();
    const words = wordsOf(digest, this.#folderOf(folder));
    const at = place(this.#entries, words);
    if (this.#entries[at + ENTRY - 1] === 0) this.#size++;
    this.#entries.set(words, at);
    this.#entries[at + ENTRY - 1] = number + 1;
  }

  #folderOf(folder: string): number {
    const known = this.#folders.get(folder) ?? this.#folders.size;
    this.#folders.set(folder, known);
    return known;
  }

  #grow(): void {
    const before = this.#entries;
    this.#entries = new Uint32Array(before.length * 2);
    for (let from = 0; from < before.length; from += ENTRY) {
      const entry = before.subarray(from, from + ENTRY);
      if (entry[ENTRY - 1] !== 0) this.#entries.set(entry, place(this.#entries, entry));
    }
  }
}

type Words = ArrayLike<number>;

function wordsOf(digest: Uint8Array, folder: number): Words {
  const view = new DataView(digest.buffer, digest.byteOffset, digest.byteLength);
  return [view.getUint32(0), view.getUint32(4), view.getUint32(8), folder];
}

/** Where an entry is, or would be: the next free one from its first word on. */
function place(entries: Uint32Array, words: Words): number {
  const capacity = entries.length / ENTRY;
  for (let index = ((words[0] ?? 0) + (words[3] ?? 0)) % capacity; ; index = (index + 1) % capacity) {
    const at = index * ENTRY;
    if (entries[at + ENTRY - 1] === 0) return at;
    const isSame =
      entries[at] === words[0] &&
      entries[at + 1] === words[1] &&
      entries[at + 2] === words[2] &&
      entries[at + 3] === words[3];
    if (isSame) return at;
  }
}
