import { DEAD, type Language, TOP } from './language';
import { isInName, type Move, SHAPES, type ShapeName } from './shapes';

/** What of a value a test reads: the whole text, or of each mailbox in it the address or a part of it. */
export type Part = 'text' | 'all' | 'localpart' | 'domain';

export interface ValueTest {
  readonly part: Part;
  readonly language: Language;
}

/** A value is wanted for which each of `some` holds (of its mailboxes, for some one), and none of `none` (for any one). */
export interface ValueQuery {
  readonly shape: ShapeName;
  readonly some: readonly ValueTest[];
  readonly none: readonly ValueTest[];
}

export interface Value {
  readonly text: string;
  /** Where display names lie in it, from the first character up to and without the last. */
  readonly names: readonly (readonly [from: number, to: number])[];
}

export type FoundValue = { readonly found: 'value'; readonly value: Value } | { readonly found: 'none' | 'gave up' };

/** States that are looked at before the search gives up. */
export const VALUE_BUDGET = 60_000;

/** More wanted tests on mailboxes than this cannot be told apart in one number. */
const MOST_SOME = 30;

interface Place {
  readonly state: string;
  /** Bits of the wanted tests that a mailbox before has met. */
  readonly met: number;
  /** The states of the languages, those of `some` first. */
  readonly at: readonly number[];
  readonly before: Place | null;
  readonly character: string;
}

/**
 * The shortest value that a query asks for: the product of the shape and all languages, explored breadth first. `none` means
 * that there is no such value of that shape.
 */
export function findValue({ shape: name, some, none }: ValueQuery, budget = VALUE_BUDGET): FoundValue {
  const shape = SHAPES[name];
  const tests = [...some, ...none];
  const ofMailbox = some.map(({ part }) => part !== 'text');
  const all = some.reduce((bits, _, index) => (ofMailbox[index] ? bits | (1 << index) : bits), 0);
  if (some.length > MOST_SOME) return { found: 'gave up' };
  const starts = tests.map(({ language }) => language.start);
  const symbols = symbolsFor(tests);
  const seen = new Set<string>();
  let layer: Place[] = [];

  const enter = (place: Place): Place | null => {
    const key = `${place.state} ${place.met} ${place.at.join(' ')}`;
    if (seen.has(key)) return null;
    seen.add(key);
    return place;
  };
  /** Closes a mailbox: what it meets is noted, and what it must not meet is refused. */
  const closed = (met: number, at: readonly number[]): number | null => {
    let bits = met;
    for (let index = 0; index < tests.length; index++) {
      const { part, language } = tests[index] as ValueTest;
      if (part === 'text' || !language.accepting(at[index] as number)) continue;
      if (index >= some.length) return null;
      bits |= 1 << index;
    }
    return bits;
  };
  const isDone = ({ state, met, at }: Place): boolean => {
    const ends = shape.ends(state);
    if (ends === 'no') return false;
    const bits = ends === 'open' ? closed(met, at) : met;
    if (bits === null || (bits & all) !== all) return false;
    return tests.every(({ part, language }, index) => {
      return part !== 'text' || language.accepting(at[index] as number) === index < some.length;
    });
  };
  const moved = (place: Place, character: string, move: Move): Place | null => {
    let { met } = place;
    let at = place.at;
    if (move.mailbox === 'ended') {
      const bits = closed(met, at);
      if (bits === null) return null;
      met = bits;
    }
    if (move.mailbox)
      at = at.map((state, index) => (tests[index]?.part === 'text' ? state : (starts[index] as number)));
    const next = new Array<number>(tests.length);
    for (let index = 0; index < tests.length; index++) {
      const { part, language } = tests[index] as ValueTest;
      const state = at[index] as number;
      next[index] = reads(part, move.reads) ? language.step(state, character) : state;
      if (part === 'text' && next[index] === (index < some.length ? DEAD : TOP)) return null;
    }
    return { state: move.to, met, at: next, before: place, character };
  };

  const first: Place = { state: shape.start, met: 0, at: starts, before: null, character: '' };
  enter(first);
  if (isDone(first)) return { found: 'value', value: EMPTY };
  layer.push(first);
  while (layer.length > 0) {
    const next: Place[] = [];
    for (const place of layer) {
      for (const character of symbols) {
        for (const move of shape.moves(place.state, character)) {
          const to = moved(place, character, move);
          const entered = to && enter(to);
          if (!entered) continue;
          if (isDone(entered)) return { found: 'value', value: valueAt(entered) };
          if (seen.size > budget) return { found: 'gave up' };
          next.push(entered);
        }
      }
    }
    layer = next;
  }
  return { found: 'none' };
}

function reads(part: Part, by: Move['reads']): boolean {
  switch (part) {
    case 'text':
      return true;
    case 'all':
      return by !== 'nothing';
    case 'localpart':
      return by === 'local';
    case 'domain':
      return by === 'domain';
    default:
      part satisfies never;
      throw new Error('unknown part');
  }
}

export const EMPTY: Value = { text: '', names: [] };

function valueAt(last: Place): Value {
  const places: Place[] = [];
  for (let place: Place | null = last; place?.before; place = place.before) places.push(place);
  let text = '';
  const names: [number, number][] = [];
  for (const { character, state } of places.reverse()) {
    const name = names.at(-1);
    const [from, to] = [text.length, text.length + character.length];
    if (isInName(state)) {
      if (name?.[1] === from) name[1] = to;
      else names.push([from, to]);
    }
    text += character;
  }
  return { text, names };
}

/** Those that shapes tell apart; they come first where nothing else decides, so that values look natural. */
const STRUCTURE = [...' -.@<>,":;[]('];
/** One of each of these stands for all characters that no language knows: by kind, and by length in octets. */
const ORDINARY = [[...'aeionrstlmdhcupgbfkvwyjxzq'], [...'0123456789'], [...'éüñø'], [...'石水木'], ['😀', '🌊']];

/** One character of each kind that the tests or the shape can tell apart. */
function symbolsFor(tests: readonly ValueTest[]): string[] {
  const letters = new Set(tests.flatMap(({ language }) => [...language.letters]));
  const ordinary = ORDINARY.flatMap((kind) => kind.find((character) => !letters.has(character)) ?? []);
  const natural = (character: string) => (/[a-z]/.test(character) ? 0 : /[0-9]/.test(character) ? 1 : 2);
  return [...new Set([...letters, ...ordinary, ...STRUCTURE])].sort((a, b) => natural(a) - natural(b));
}
