/** Somebody mail came from or went to, by the address in lower case. */
export interface Correspondent {
  readonly address: string;
  /** The name they used last, or the address. */
  readonly name: string;
  /** Messages that the user has sent to them. */
  readonly written: number;
  /** Messages that came from them. */
  readonly received: number;
  /** Milliseconds since 1970 of the latest message either way; null where none has a date. */
  readonly latest: number | null;
}

/** The parts of a message that tell who writes to whom. */
export interface Passage {
  readonly from: string;
  readonly fromName: string;
  readonly to: readonly string[];
  readonly date: number | null;
}

/** Counts who writes to whom, message by message. */
export class PeopleCounter {
  readonly #people = new Map<string, { -readonly [K in keyof Correspondent]: Correspondent[K] }>();
  readonly #own: ReadonlySet<string>;

  /** `own` are the user's own addresses, in lower case; they are not correspondents. */
  constructor(own: readonly string[]) {
    this.#own = new Set(own);
  }

  add({ from, fromName, to, date }: Passage): void {
    const sender = from.toLowerCase();
    if (this.#own.has(sender)) {
      for (const address of new Set(to.map((one) => one.toLowerCase()))) this.#count(address, 'written', date);
    } else if (sender !== '') {
      const person = this.#count(sender, 'received', date);
      if (person && fromName !== '') person.name = fromName;
    }
  }

  /** Those the user has written to most come first, then those who have written most. */
  list(): Correspondent[] {
    return [...this.#people.values()].sort(
      (a, b) => b.written - a.written || b.received - a.received || (a.address < b.address ? -1 : 1),
    );
  }

  #count(address: string, way: 'written' | 'received', date: number | null) {
    if (address === '' || this.#own.has(address)) return null;
    const person = this.#people.get(address) ?? { address, name: address, written: 0, received: 0, latest: null };
    this.#people.set(address, person);
    person[way]++;
    if (date !== null) person.latest = Math.max(person.latest ?? date, date);
    return person;
  }
}
