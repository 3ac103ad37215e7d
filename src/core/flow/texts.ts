import type { TextMatch } from '../rules/rule';
import { compilePattern, octetsHold } from '../sieve/match/pattern';
import { type Find, finder } from '../text/find';
import { foldAscii, toOctets } from '../text/fold';
import { elementAt } from '../text/lookup';
import type { Bitmap } from './bitmap';
import { KeySearch } from './keysearch';

/**
 * The concatenated texts of consecutive messages: octets of UTF-8 as characters 0 to 255, A to Z folded, as
 * i;ascii-casemap compares them (RFC 4790 section 9.2). One long string is searched much faster than many short ones.
 */
export interface TextBatch {
  readonly octets: string;
  /** Where each text starts in `octets`, and where the last one ends: one more than there are texts. */
  readonly edges: Int32Array | readonly number[];
  /** The message of each text, ascending. */
  readonly messages: Int32Array | readonly number[];
}

/** A text in the form of batches. */
export function foldedOctets(text: string): string {
  return toOctets(foldAscii(text));
}

/** A test of the text, with its matches so far. */
export interface TextTest {
  readonly match: TextMatch['match'];
  readonly keys: readonly string[];
  readonly found: Bitmap;
}

/** Up to this many keys, looking for each of them in the whole batch is faster than the automaton (measured). */
const FEW_KEYS = 30;

/** Prepares tests, to be applied to batch after batch. */
export function textSearch(tests: readonly TextTest[]): (batch: TextBatch) => void {
  const substrings = tests.flatMap(({ match, keys, found }) =>
    match === 'contains' ? keys.map(foldedOctets).map((key) => ({ key, find: finder(key), found })) : [],
  );
  const wholes = tests.flatMap(({ match, keys, found }) =>
    match === 'contains' ? [] : keys.map((key) => ({ holds: wholeTest(match, foldedOctets(key)), found })),
  );
  const automaton = substrings.length > FEW_KEYS ? new KeySearch(substrings.map(({ key }) => key)) : null;
  return (batch) => {
    if (!automaton) for (const substring of substrings) findOne(substring, batch);
    if (!automaton && wholes.length === 0) return;
    for (let text = 0; text < batch.messages.length; text++) {
      const message = elementAt(batch.messages, text);
      const octets = batch.octets.slice(batch.edges[text], batch.edges[text + 1]);
      automaton?.search(octets, (key) => substrings[key]?.found.add(message));
      for (const { holds, found } of wholes) if (holds(octets)) found.add(message);
    }
  };
}

function wholeTest(match: 'is' | 'matches', key: string): (octets: string) => boolean {
  if (match === 'is') return (octets) => octets === key;
  const pattern = compilePattern(key);
  return (octets) => octetsHold(pattern, octets);
}

interface Substring {
  readonly key: string;
  readonly find: Find;
  readonly found: Bitmap;
}

/** Searches one key in all texts at once; a match across the end of a text does not count. */
function findOne({ key, find, found }: Substring, { octets, edges, messages }: TextBatch): void {
  if (key === '') {
    for (const message of messages) found.add(message);
    return;
  }
  let text = 0;
  for (let at = find(octets); at >= 0 && text < messages.length; ) {
    while (text < messages.length && elementAt(edges, text + 1) < at + key.length) text++;
    if (text >= messages.length) return;
    const start = elementAt(edges, text);
    if (at >= start) {
      found.add(elementAt(messages, text));
      text++;
    }
    at = find(octets, Math.max(at + 1, elementAt(edges, text)));
  }
}

/** Joins texts into one batch. */
export class BatchBuilder {
  #texts: string[] = [];
  #edges: number[] = [0];
  #messages: number[] = [];

  /** `text` is folded already. */
  add(message: number, text: string): void {
    this.#texts.push(text);
    this.#edges.push(this.length + text.length);
    this.#messages.push(message);
  }

  get length(): number {
    return elementAt(this.#edges, this.#edges.length - 1);
  }

  take(): TextBatch {
    const batch = { octets: this.#texts.join(''), edges: this.#edges, messages: this.#messages };
    this.#texts = [];
    this.#edges = [0];
    this.#messages = [];
    return batch;
  }
}
