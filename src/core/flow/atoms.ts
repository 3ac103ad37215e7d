import { addressPart, parseAddressList } from '../mail/address';
import type { Clock } from '../mail/arrival';
import { maybeBodyMatch } from '../rules/known-comparisons';
import type { AddressPart, LeafTest, TextMatch } from '../rules/rule';
import { ARRIVAL } from '../sieve/interpret/world';
import { comparatorNamed } from '../sieve/match/comparators';
import { compilePattern, type Pattern, patternHolds } from '../sieve/match/pattern';
import { finder } from '../text/find';
import { isAscii } from '../text/fold';
import { elementAt } from '../text/lookup';
import { Bitmap } from './bitmap';
import { type ColumnName, type ColumnSource, unpackAddress } from './columns';
import { maybeCountTest, messagesCounted } from './counts';
import { KeySearch } from './keysearch';
import { evaluateOpaque, type OpaqueAtom, opaqueKey } from './opaque';
import { textSearch } from './texts';

/**
 * A property of the message alone, cached as a bitmap: a leaf test, or a script block that only the interpreter can
 * run, with one bitmap for each outcome.
 */
export type Atom = Exclude<LeafTest, { test: 'hasflag' }> | ScriptAtom;

export interface ScriptAtom {
  readonly test: 'script';
  readonly text: string;
  readonly requires: readonly string[];
  /** The script that must have run before; see `inContext`. */
  readonly before?: string;
}

const keys = new WeakMap<Atom, string>();

/** Atoms with equal keys match the same messages. */
export function atomKey(atom: Atom): string {
  const known = keys.get(atom);
  if (known !== undefined) return known;
  const key = writeKey(atom);
  keys.set(atom, key);
  return key;
}

function writeKey(atom: Atom): string {
  switch (atom.test) {
    case 'header':
      return JSON.stringify(['header', names(atom.headers), matchKey(atom)]);
    case 'address':
      return JSON.stringify(['address', atom.part, names(atom.headers), matchKey(atom)]);
    case 'envelope':
      return JSON.stringify(['envelope', atom.part, [...atom.parts].sort(), matchKey(atom)]);
    case 'exists':
      return JSON.stringify(['exists', names(atom.headers)]);
    case 'size':
      return JSON.stringify(['size', atom.relation, atom.octets]);
    default:
      return opaqueKey(atom);
  }
}

const names = (headers: readonly string[]): string[] =>
  [...new Set(headers.map((header) => header.toLowerCase()))].sort();

const matchKey = ({ match, comparator, keys }: TextMatch): unknown => [match, comparator, [...new Set(keys)].sort()];

const BY_COLUMNS: ReadonlySet<string> = new Set(['header', 'address', 'envelope', 'exists', 'size']);

const isOpaque = (atom: Atom): atom is OpaqueAtom => !BY_COLUMNS.has(atom.test);

/** Whether the interpreter runs it on each message. */
export const isInterpreted = (atom: Atom): atom is OpaqueAtom => readerOf(atom) === 'interpreter';

/** The columns an atom reads. */
export function columnsForAtom(atom: Atom): ColumnName[] {
  switch (atom.test) {
    case 'header':
    case 'exists':
      return names(atom.headers).map((name): ColumnName => `header:${name}`);
    case 'address':
      return names(atom.headers).map((name): ColumnName => `address:${name}`);
    case 'envelope':
      return [...new Set(atom.parts)].map((part): ColumnName => `envelope:${part}`);
    case 'size':
      return ['size'];
    case 'script':
      return [];
    default:
      return [...(maybeCountTest(atom)?.columns ?? [])];
  }
}

/**
 * Evaluates atoms over all messages, reading each column once for all its atoms; the interpreter runs the rest on each
 * message. Bitmaps are keyed by `atomKey`, outcomes by `outcomeKey`. `progress` receives the number of finished columns
 * and may throw to cancel. `clock` is the current date that rules see.
 */
export function evaluateAtoms(
  wanted: readonly Atom[],
  source: ColumnSource,
  progress: (done: number, total: number) => void = () => {},
  clock: Clock = ARRIVAL,
): Map<string, Bitmap> {
  const atoms = [...new Map(wanted.map((atom) => [atomKey(atom), atom])).values()];
  const results = atoms.map((atom) => (atom.test === 'exists' ? Bitmap.full(source.count) : new Bitmap(source.count)));
  const byColumn = new Map<ColumnName, number[]>();
  atoms.forEach((atom, index) => {
    for (const column of columnsForAtom(atom)) {
      const list = byColumn.get(column);
      if (list) list.push(index);
      else byColumn.set(column, [index]);
    }
  });
  const kinds = atoms.map(readerOf);
  const opaque = atoms.filter(isInterpreted);
  const texts = kinds.flatMap((kind, index) => {
    return typeof kind === 'object' ? [{ ...kind, found: elementAt(results, index) }] : [];
  });
  const counts = new Map<number, Uint32Array>();
  atoms.forEach((atom, index) => {
    if (atom.test !== 'script' && maybeCountTest(atom)) counts.set(index, new Uint32Array(source.count));
  });
  const total = byColumn.size + (texts.length > 0 ? 1 : 0) + (opaque.length > 0 ? 1 : 0);
  let done = 0;
  for (const [column, indexes] of byColumn) {
    progress(done, total);
    scanColumn(column, indexes, { atoms, results, counts, source, checkpoint: () => progress(done, total) });
    done++;
  }
  for (const [index, numbers] of counts) {
    const atom = elementAt(atoms, index);
    const test = atom.test === 'script' ? null : maybeCountTest(atom);
    if (test) results[index] = messagesCounted(test, numbers);
  }
  if (texts.length > 0) {
    const search = textSearch(texts);
    source.texts((batch) => {
      progress(done, total);
      search(batch);
    });
    done++;
  }
  const found = new Map(atoms.map((atom, index) => [atomKey(atom), elementAt(results, index)]));
  if (opaque.length > 0) {
    for (const [key, bitmap] of evaluateOpaque(opaque, source, clock, () => progress(done, total)))
      found.set(key, bitmap);
  }
  progress(total, total);
  return found;
}

/** Messages processed between two checkpoints. */
const CHECKED = 1024;

interface Scan {
  readonly atoms: readonly Atom[];
  readonly results: Bitmap[];
  /** For atoms that count values: how many each message has. */
  readonly counts: ReadonlyMap<number, Uint32Array>;
  readonly source: ColumnSource;
  readonly checkpoint: () => void;
}

function scanColumn(
  column: ColumnName,
  indexes: readonly number[],
  { atoms, results, counts, source, checkpoint }: Scan,
): void {
  const present = indexes.some((index) => atoms[index]?.test === 'exists') ? new Bitmap(source.count) : null;
  const sizes = indexes.filter((index) => atoms[index]?.test === 'size');
  const counted = indexes.flatMap((index) => counts.get(index) ?? []);
  const readers = textReaders(indexes, atoms);
  const dictionary = source.maybeDictionary?.(column) ?? null;
  let visited = 0;
  const visit = () => {
    if (++visited % CHECKED === 0) checkpoint();
  };
  if (dictionary) {
    const { terms, messages, places } = dictionary;
    for (const message of present ? messages : []) present?.add(message);
    for (const numbers of counted) for (const message of messages) numbers[message] = (numbers[message] ?? 0) + 1;
    const hits = terms.map((value) => {
      visit();
      const met = readers.flatMap((reader) => reader.hits(value));
      for (const index of sizes) if (sizeHolds(elementAt(atoms, index), Number(value))) met.push(index);
      return met.length === 0 ? NO_HITS : met;
    });
    const isAsked = readers.length + sizes.length > 0;
    for (let at = 0; isAsked && at < messages.length; at++) {
      const met = hits[places[at] ?? 0] ?? NO_HITS;
      for (let hit = 0; hit < met.length; hit++) results[met[hit] ?? 0]?.add(messages[at] ?? 0);
    }
  } else {
    const remembering = readers.map(remembered);
    source.scan(column, (message, values) => {
      visit();
      present?.add(message);
      for (const numbers of counted) numbers[message] = (numbers[message] ?? 0) + values.length;
      for (const index of sizes)
        if (sizeHolds(elementAt(atoms, index), Number(values[0]))) results[index]?.add(message);
      for (const reader of remembering) {
        for (const value of values) for (const index of reader(value)) results[index]?.add(message);
      }
    });
  }
  for (const index of indexes) {
    if (present && atoms[index]?.test === 'exists') results[index] = elementAt(results, index).and(present);
  }
}

function sizeHolds(atom: Atom, size: number): boolean {
  if (atom.test !== 'size') return false;
  return atom.relation === 'over' ? size > atom.octets : size < atom.octets;
}

interface Reader {
  /** The atoms that a value of a column matches. */
  readonly hits: (value: string) => readonly number[];
  /** Whether that takes longer than to remember it. */
  readonly isSlow: boolean;
}
type TextAtom = Extract<Atom, TextMatch>;

function textAtomAt(atoms: readonly Atom[], index: number): TextAtom {
  const atom = elementAt(atoms, index);
  if (!('keys' in atom)) throw new Error(`no text is compared by a test of kind ${atom.test}`);
  return atom;
}

/** How an atom is evaluated: from columns, by the interpreter, or by searching texts. */
export function readerOf(atom: Atom): 'columns' | 'interpreter' | TextMatch {
  if (!isOpaque(atom) || (atom.test !== 'script' && maybeCountTest(atom))) return 'columns';
  return (atom.test === 'script' ? null : maybeBodyMatch(atom)) ?? 'interpreter';
}

/** One reader for each part and folding of a column, shared by all its atoms. */
function textReaders(indexes: readonly number[], atoms: readonly Atom[]): Reader[] {
  const groups = new Map<string, number[]>();
  for (const index of indexes) {
    const atom = elementAt(atoms, index);
    if (!('keys' in atom)) continue;
    const part = 'part' in atom ? atom.part : '';
    const group = `${atom.test} ${part} ${atom.comparator}`;
    groups.set(group, [...(groups.get(group) ?? []), index]);
  }
  return Array.from(groups.values(), (group) => textReader(group, atoms));
}

const NO_HITS: readonly number[] = [];

function textReader(indexes: readonly number[], atoms: readonly Atom[]): Reader {
  const first = textAtomAt(atoms, elementAt(indexes, 0));
  const comparator = comparatorNamed(first.comparator);
  const view = viewOf(first);
  const meet = keyFinder(indexes, atoms, comparator.fold);
  return {
    hits: (value) => {
      const seen = view(value);
      return seen === null ? NO_HITS : meet(comparator.fold(seen));
    },
    // Searching a few words is faster than a cache lookup.
    isSlow: indexes.length > FEW_KEYS || first.test !== 'header',
  };
}

/** Values up to this length are cached with their matching atoms, since addresses, lists and subjects repeat. */
const REMEMBERED_LENGTH = 200;
const REMEMBERED = 50_000;

function remembered({ hits: read, isSlow }: Reader): Reader['hits'] {
  if (!isSlow) return read;
  const known = new Map<string, readonly number[]>();
  return (value) => {
    const before = known.get(value);
    if (before) return before;
    const hits = read(value);
    if (value.length <= REMEMBERED_LENGTH && known.size < REMEMBERED) known.set(value, hits);
    return hits;
  };
}

/** The atoms that a folded value matches: equal keys by a table, substrings and words of patterns in one pass. */
function keyFinder(
  indexes: readonly number[],
  atoms: readonly Atom[],
  fold: (text: string) => string,
): (folded: string) => readonly number[] {
  const equal = new Map<string, number[]>();
  const sought: Sought[] = [];
  for (const index of indexes) {
    const atom = textAtomAt(atoms, index);
    for (const key of new Set(atom.keys.map(fold))) {
      if (atom.match === 'is') equal.set(key, [...(equal.get(key) ?? []), index]);
      else if (atom.match === 'contains') sought.push({ key, atom: index, pattern: null });
      else {
        const pattern = compilePattern(key);
        sought.push({ key: rarestWords(pattern), atom: index, pattern });
      }
    }
  }
  const search = substringSearch(sought.map(({ key }) => key));
  return (folded) => {
    const same = equal.get(folded);
    let hits: Set<number> | null = same ? new Set(same) : null;
    search(folded, (key) => {
      const { atom, pattern } = elementAt(sought, key);
      if (hits?.has(atom) || (pattern !== null && !patternHolds(pattern, folded))) return;
      hits ??= new Set();
      hits.add(atom);
    });
    return hits === null ? NO_HITS : [...hits];
  };
}

/** Words a value must contain; for a pattern, a precondition of the full match. */
interface Sought {
  readonly key: string;
  readonly atom: number;
  readonly pattern: Pattern | null;
}

/** The longest literal words of a pattern; only US-ASCII is compared as octets. */
function rarestWords(pattern: Pattern): string {
  let longest = '';
  for (const { literal } of pattern.segments) {
    if (literal !== null && literal.length > longest.length && isAscii(literal)) longest = literal;
  }
  return longest;
}

/** Below this number of keys, a search for each of them is faster than the automaton (measured). */
const FEW_KEYS = 6;

function substringSearch(keys: readonly string[]): (value: string, found: (key: number) => void) => void {
  if (keys.length <= FEW_KEYS) {
    const finds = keys.map(finder);
    return (value, found) => {
      for (let key = 0; key < finds.length; key++) if (elementAt(finds, key)(value) >= 0) found(key);
    };
  }
  const search = new KeySearch(keys);
  return (value, found) => search.search(value, found);
}

/** The part of a column's value that the test compares. */
function viewOf(atom: TextAtom): (value: string) => string | null {
  switch (atom.test) {
    case 'header':
      return (value) => value;
    case 'address':
      return (value) => addressPart({ display: '', ...unpackAddress(value) }, atom.part);
    case 'envelope':
      return (value) => envelopePart(value, atom.part);
    default:
      atom satisfies never;
      throw new Error('unknown atom');
  }
}

/** RFC 5228 section 5.4: the null reverse-path is empty whatever part is asked for. */
function envelopePart(path: string, part: AddressPart): string | null {
  if (path === '') return '';
  const address = parseAddressList(path)[0];
  return address ? addressPart(address, part) : null;
}
