import { type Find, finder } from '../text/find';
import { elementAt } from '../text/lookup';
import { Bitmap } from './bitmap';
import type { ColumnSource } from './columns';
import { foldedOctets, type TextBatch } from './texts';

/** Where a key stands in the texts of messages. */
export interface KeyUse {
  /** Messages that contain the key only inside other words. */
  readonly inside: Bitmap;
  /** Some of these words, folded, with some messages that have each. */
  readonly words: ReadonlyMap<string, readonly number[]>;
}

/** An ending does not make another word: up to this many letters may follow a key. */
const ENDING = 2;
const MOST_WORDS = 1000;
const MOST_EXAMPLES = 20;
const decoder = new TextDecoder();

/** The words of a text that contain a key, and whether it is inside them: after other letters, or before several. */
export function wordsWith(text: string, key: string): { readonly word: string; readonly inner: boolean }[] {
  return [...text.matchAll(/[\p{L}\p{M}\p{N}]+/gu)].flatMap(([word]) => {
    const at = word.indexOf(key);
    return at < 0 ? [] : [{ word, inner: at > 0 || word.length - key.length > ENDING }];
  });
}

interface Asked {
  readonly key: string;
  readonly find: Find;
  /** The length of the key in octets. */
  readonly length: number;
  readonly among: Bitmap;
  readonly inside: Bitmap;
  readonly whole: Bitmap;
  readonly words: Map<string, number[]>;
}

/**
 * How keys of letters in lower case stand in the texts of messages, of which those given for the key are looked at.
 * `checkpoint` is called often, and may throw to cancel.
 */
export function keyUses(
  wanted: ReadonlyMap<string, Bitmap>,
  source: Pick<ColumnSource, 'count' | 'texts'>,
  checkpoint: () => void = () => {},
): Map<string, KeyUse> {
  const all = Array.from(wanted, ([key, among]): Asked => {
    const octets = foldedOctets(key);
    const none = () => new Bitmap(source.count);
    const words = new Map<string, number[]>();
    return { key, find: finder(octets), length: octets.length, among, inside: none(), whole: none(), words };
  });
  if (all.length === 0) return new Map();
  source.texts((batch) => {
    checkpoint();
    for (const asked of all) findIn(asked, batch);
  });
  return new Map(all.map(({ key, inside, whole, words }) => [key, { inside: inside.without(whole), words }]));
}

function findIn(
  { key, find, length, among, inside, whole, words }: Asked,
  { octets, edges, messages }: TextBatch,
): void {
  let text = 0;
  for (let at = find(octets); at >= 0; at = find(octets, at + length)) {
    while (text < messages.length && elementAt(edges, text + 1) < at + length) text++;
    if (text >= messages.length) return;
    const [message, from, to] = [elementAt(messages, text), elementAt(edges, text), elementAt(edges, text + 1)];
    if (at < from || whole.has(message) || !among.has(message)) continue;
    const found = wordsWith(wordAround(octets, at, at + length, from, to), key);
    if (found.some(({ inner }) => !inner)) whole.add(message);
    for (const { word } of found) {
      inside.add(message);
      const examples = words.get(word);
      if (!examples && words.size < MOST_WORDS) words.set(word, [message]);
      else if (examples && examples.length < MOST_EXAMPLES) examples.push(message);
    }
  }
}

/** Longer words are not shown whole. */
const LONGEST = 60;

/** What is around octets of a text, up to the next octet of US-ASCII that is neither a letter nor a digit. */
function wordAround(octets: string, start: number, end: number, from: number, to: number): string {
  let [first, last] = [start, end];
  while (first > Math.max(from, start - LONGEST) && isOfWord(octets.charCodeAt(first - 1))) first--;
  while (last < Math.min(to, end + LONGEST) && isOfWord(octets.charCodeAt(last))) last++;
  return decoder.decode(Uint8Array.from(octets.slice(first, last), (character) => character.charCodeAt(0)));
}

/** Letters and digits, and all octets of other characters. */
const isOfWord = (code: number): boolean =>
  code >= 0x80 || (code >= 0x30 && code <= 0x39) || (code >= 0x61 && code <= 0x7a) || (code >= 0x41 && code <= 0x5a);
