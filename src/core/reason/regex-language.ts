import { type Caseless, compileRegex, type Regex, RegexFault, type Step } from '../sieve/match/regex';
import { elementAt } from '../text/lookup';
import { type Automaton, Exploded, TOP } from './automata/language';

/** More states are not made of one automaton. */
const MOST_STATES = 4000;

/** A character that no expression names: neither a letter of US-ASCII nor one with another case in it. */
const ORDINARY = '石'.charCodeAt(0);

/** Whether all that an expression tells apart are characters of US-ASCII, and single ones beside them. */
export function isRegexLanguage(source: string): boolean {
  try {
    compileRegex(source, 'none');
  } catch (error) {
    if (error instanceof RegexFault) return false;
    throw error;
  }
  // A range of other letters tells apart more of them than can be listed.
  return /^[\t -~]*$/.test(source);
}

/**
 * The texts that hold a match of some expression, as a deterministic automaton whose states are sets of places in the
 * machines (Thompson 1968), made when they are first reached.
 */
export class RegexLanguage implements Automaton {
  readonly family = null;
  readonly letters: ReadonlySet<string>;
  readonly start: number;
  readonly #machines: readonly Regex[];
  readonly #sets: (readonly number[])[] = [[], []];
  readonly #accepting: boolean[] = [false, true];
  readonly #known = new Map<string, number>();
  readonly #next: Map<number, number>[] = [new Map(), new Map()];
  /** All instructions one behind the other, with jumps moved along; a search may begin at the first of each machine. */
  readonly #steps: Step[] = [];
  readonly #entries: number[] = [];

  constructor(sources: readonly string[], caseless: Caseless) {
    this.#machines = sources.map((source) => compileRegex(source, caseless));
    for (const { steps } of this.#machines) {
      const shift = this.#steps.length;
      this.#entries.push(shift);
      this.#steps.push(...steps.map((step) => moved(step, shift)));
    }
    this.letters = lettersOf(this.#steps);
    this.start = this.#state(this.#entries, true);
  }

  accepting(state: number): boolean {
    return elementAt(this.#accepting, state);
  }

  step(state: number, character: string): number {
    let at = state;
    for (let index = 0; index < character.length && at > TOP; index++)
      at = this.#behind(at, character.charCodeAt(index));
    return at;
  }

  has(text: string): boolean {
    return this.#machines.some(({ match }) => match(text) !== null);
  }

  /** A shortest text that the first expression matches as a whole, of letters where they will do. */
  samples(): string[] {
    const { steps } = elementAt(this.#machines, 0);
    // The start may be asked for before any character, and nothing may come behind an end.
    interface Way {
      readonly at: number;
      readonly text: string;
      readonly ended: boolean;
    }
    const seen = new Set<string>();
    let layer: Way[] = [{ at: 0, text: '', ended: false }];
    while (layer.length > 0) {
      const next: Way[] = [];
      const stack = layer.reverse();
      for (let way = stack.pop(); way; way = stack.pop()) {
        const { at, text, ended } = way;
        const key = `${at} ${text === ''} ${ended}`;
        if (seen.has(key)) continue;
        seen.add(key);
        const step = elementAt(steps, at);
        if (step.op === 'match') return [text];
        if (step.op === 'jump') stack.push({ ...way, at: step.to });
        else if (step.op === 'split') stack.push({ ...way, at: step.second }, { ...way, at: step.first });
        else if (step.op === 'save' || (step.op === 'start' && text === '')) stack.push({ ...way, at: at + 1 });
        else if (step.op === 'end') stack.push({ ...way, at: at + 1, ended: true });
        else if (step.op === 'char' && !ended) {
          const character = NATURAL.find((one) => step.holds(one.charCodeAt(0)));
          if (character !== undefined) next.push({ at: at + 1, text: text + character, ended });
        }
      }
      layer = next;
    }
    return [];
  }

  #behind(state: number, code: number): number {
    const row = elementAt(this.#next, state);
    const known = row.get(code);
    if (known !== undefined) return known;
    const places = elementAt(this.#sets, state).flatMap((at) => {
      const step = elementAt(this.#steps, at);
      return step.op === 'char' && step.holds(code) ? [at + 1] : [];
    });
    const next = this.#state([...places, ...this.#entries], false);
    row.set(code, next);
    return next;
  }

  #state(from: readonly number[], atStart: boolean): number {
    const places = this.#closure(from, atStart, false);
    if (places.some((at) => this.#steps[at]?.op === 'match')) return TOP;
    const set = places.filter((at) => /^(char|end)$/.test(this.#steps[at]?.op ?? '')).sort((a, b) => a - b);
    // At the start an expression for nothing but the start may still hold; later that is another state.
    const key = `${atStart} ${set.join(' ')}`;
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    if (this.#sets.length >= MOST_STATES) throw new Exploded('too many states');
    const ended = this.#closure(from, atStart, true).some((at) => this.#steps[at]?.op === 'match');
    const state = this.#sets.push(set) - 1;
    this.#accepting.push(ended);
    this.#next.push(new Map());
    this.#known.set(key, state);
    return state;
  }

  /** All places that are reached without a character. */
  #closure(from: readonly number[], atStart: boolean, atEnd: boolean): number[] {
    const seen = new Set<number>();
    const stack = [...from];
    for (let at = stack.pop(); at !== undefined; at = stack.pop()) {
      if (seen.has(at)) continue;
      seen.add(at);
      const step = elementAt(this.#steps, at);
      if (step.op === 'jump') stack.push(step.to);
      else if (step.op === 'split') stack.push(step.first, step.second);
      else if (step.op === 'save' || (step.op === 'start' && atStart) || (step.op === 'end' && atEnd))
        stack.push(at + 1);
    }
    return [...seen];
  }
}

/** What a sample is made of, if it can be. */
const NATURAL = [
  ...'aeionrstlmdhcupgbfkvwyjxzq0123456789',
  ...Array.from({ length: 95 }, (_, at) => String.fromCharCode(at + 32)),
  '石',
];

function moved(step: Step, shift: number): Step {
  if (step.op === 'split') return { op: 'split', first: step.first + shift, second: step.second + shift };
  return step.op === 'jump' ? { op: 'jump', to: step.to + shift } : step;
}

/** The characters that some instruction tells apart from those that no expression names. */
function lettersOf(steps: readonly Step[]): Set<string> {
  const tests = steps.flatMap((step) => (step.op === 'char' ? [step.holds] : []));
  const letters = new Set<string>();
  // The no-break space is a blank to [:space:], and the only one beyond US-ASCII that is listed.
  for (const code of [9, ...Array.from({ length: 95 }, (_, at) => at + 32), 0xa0]) {
    if (tests.some((holds) => holds(code) !== holds(ORDINARY))) letters.add(String.fromCharCode(code));
  }
  return letters;
}
