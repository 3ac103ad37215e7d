/** The words of a line, and what stands between them, with their places in it. */

export interface Token {
  /** `people`: an address, or a pattern of addresses or domains; `domain`: a word with dots that can be one. */
  readonly kind: 'word' | 'quoted' | 'people' | 'domain' | 'size' | 'arrow' | 'mark';
  /** Without quotation marks or angle brackets. */
  readonly text: string;
  /** The offsets of the whole token in the line. */
  readonly start: number;
  readonly end: number;
  /** Written in angle brackets, so that the words before it are a name. */
  readonly angled?: true;
  /** What stands between straight quotation marks, with its escapes. */
  readonly raw?: string;
  /** Of a size, in octets. */
  readonly octets?: number;
}

/** Phrases are looked for in a text of keys: for each token its word in small letters, or a sign for its kind. */
const SIGNS: Readonly<Record<Exclude<Token['kind'], 'word' | 'mark'>, string>> = {
  quoted: '"',
  people: '@',
  domain: '%',
  size: '#',
  arrow: '->',
};

const QUOTED = [
  /“([^”]*)”/y,
  /"((?:[^"\\]|\\.)*)"/y,
  /«([^»]*)»/y,
  /„([^“”]*)[“”]/y,
  /(?<![^\s(,;:])'([^']+)'(?![^\s),;:.])/y,
];
const ANGLED = /<\s*([^<>\s]+@[^<>\s]+)\s*>/y;
const ARROW = /->|=>|[→⇒➔]/y;
const PEOPLE = /(?:mailto:)?(?:[^\s,;:<>()"“”→]*@[^\s,;:<>()"“”→]+|\*\.[^\s,;:<>()"“”→]+)/iy;
const SIZE = /(\d[\d,]*(?:\.\d+)?)\s?(gb|gigabytes?|mb|megabytes?|kb|kilobytes?|bytes?|[gmk])(?![\p{L}\p{N}])/iuy;
const WORD = /[^\s,;:()"“”«»<>→]+/y;
const BLANK = /\s+/y;
const DOMAIN = /^[a-z0-9-]+(\.[a-z0-9-]+)*\.[a-z]{2,}$/i;

const UNITS: Readonly<Record<string, number>> = { g: 1024 ** 3, m: 1024 ** 2, k: 1024, b: 1 };

export function tokensOf(line: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  const match = (pattern: RegExp) => {
    pattern.lastIndex = at;
    return pattern.exec(line);
  };
  const take = (kind: Token['kind'], text: string, length: number, more: Partial<Token> = {}) => {
    tokens.push({ kind, text, start: at, end: at + length, ...more });
    at += length;
  };
  while (at < line.length) {
    const blank = match(BLANK);
    if (blank) {
      at += blank[0].length;
      continue;
    }
    const quoted = QUOTED.map(match).find(Boolean);
    const angled = match(ANGLED);
    const arrow = match(ARROW);
    const people = match(PEOPLE);
    const size = match(SIZE);
    const word = match(WORD);
    if (quoted)
      take('quoted', unescaped(quoted), quoted[0].length, quoted[0].startsWith('"') ? { raw: quoted[1] ?? '' } : {});
    else if (angled) take('people', angled[1] ?? '', angled[0].length, { angled: true });
    else if (arrow) take('arrow', arrow[0], arrow[0].length);
    else if (people) {
      const text = people[0].replace(/[.!?]+$/, '');
      take('people', text.replace(/^mailto:/i, ''), text.length);
    } else if (size) take('size', size[0], size[0].length, { octets: octetsOf(size) });
    else if (word) {
      const text = word[0].replace(/(?<=.)[.!?]+$/, '');
      take(DOMAIN.test(text) ? 'domain' : 'word', text, text.length);
    } else take('mark', line.charAt(at), 1);
  }
  return tokens;
}

/** Between straight quotation marks, a backslash escapes one. */
const unescaped = ([whole, text = '']: RegExpExecArray): string =>
  whole.startsWith('"') ? text.replace(/\\(["\\])/g, '$1') : text;

function octetsOf([, number = '', unit = '']: RegExpExecArray): number {
  return Math.round(Number(number.replaceAll(',', '')) * (UNITS[unit.charAt(0).toLowerCase()] ?? 1));
}

/** A line as tokens, in which phrases are found by their place. */
export class Line {
  readonly tokens: readonly Token[];
  readonly #keys: string;
  /** For each token, and for the end, its offset in the keys. */
  readonly #offsets: number[] = [];
  readonly #places = new Map<number, number>();

  constructor(readonly text: string) {
    this.tokens = tokensOf(text);
    let keys = '';
    for (const token of this.tokens) {
      this.#mark(keys.length);
      keys += `${keyOf(token)} `;
    }
    this.#mark(keys.length);
    this.#keys = keys;
  }

  #mark(offset: number): void {
    this.#places.set(offset, this.#offsets.length);
    this.#offsets.push(offset);
  }

  /** The number of the token after a phrase that begins at this one; null if it does not. */
  after(place: number, phrase: RegExp): number | null {
    phrase.lastIndex = this.#offsets[place] ?? this.#keys.length;
    return phrase.test(this.#keys) ? (this.#places.get(phrase.lastIndex) ?? null) : null;
  }
  /** The number of the token after the longest of these phrases that begins here; null if none does, or says nothing. */
  afterAny(place: number, phrases: readonly RegExp[]): number | null {
    let best: number | null = null;
    for (const one of phrases) {
      const next = this.after(place, one);
      if (next !== null && next > place && (best === null || next > best)) best = next;
    }
    return best;
  }
}

const keyOf = ({ kind, text }: Token): string =>
  kind === 'word' || kind === 'mark' ? text.toLowerCase().replaceAll('’', "'") : SIGNS[kind];

/**
 * A phrase: words in a row, each with alternatives between bars, optional with a question mark behind it; `_` stands
 * for a blank within an alternative.
 */
export function phrase(notation: string): RegExp {
  const items = notation.split(' ').map((item) => {
    const isOptional = item.length > 1 && item.endsWith('?');
    const alternatives = (isOptional ? item.slice(0, -1) : item)
      .split('|')
      .map((one) => one.replace(/[.*+?^${}()[\]\\]/g, '\\$&').replaceAll('_', ' '));
    return `(?:(?:${alternatives.join('|')}) )${isOptional ? '?' : ''}`;
  });
  return new RegExp(items.join(''), 'y');
}

/** Sieve within a sentence is escaped as in JSON, so that it stays on one line. */
export function sieveIn({ text, raw }: Token): string {
  if (raw === undefined) return text;
  try {
    return String(JSON.parse(`"${raw}"`));
  } catch {
    return text;
  }
}
