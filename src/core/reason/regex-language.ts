import { type Caseless, compileRegex, type Regex, RegexFault, type Step } from '../sieve/match/regex';
import { elementAt } from '../text/lookup';
import { type Automaton, Exploded, TOP } from './automata/language';

/** The most states of one automaton. */
const MOST_STATES = 4000;

/** A character outside every expression: neither US-ASCII nor a letter with a US-ASCII counterpart. */
const ORDINARY = '石'.charCodeAt(0);

/** Whether the expressions distinguish only US-ASCII characters, and listed single characters beyond US-ASCII. */
export function isRegexLanguage(source: string): boolean {
  try {
    compileRegex(source, 'none');
  } catch (error) {
    if (error instanceof RegexFault) return false;
    throw error;
  }
  // A range of other letters distinguishes more characters than can be listed.
  return /^[\t -~]*$/.test(source);
}

/**
 * The texts that contain a match of some expression, as a deterministic automaton whose states are sets of program
 * positions (Thompson 1968), created when first reached.
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
  /** The programs of all expressions concatenated, with jumps relocated; a search may begin at the start of each. */
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

  /** A shortest text that the first expression matches as a whole, made of letters if possible. */
  samples(): string[] {
    const { steps } = elementAt(this.#machines, 0);
    // An assertion of the start may precede any character; nothing may follow an assertion of the end.
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
    // At the start of the text an expression anchored to the start can still match; after the first character that is
    // another state.
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

  /** The closure: all positions reachable without a character. */
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

/** Characters preferred in a sample text. */
const NATURAL = [
  ...'aeionrstlmdhcupgbfkvwyjxzq0123456789',
  ...Array.from({ length: 95 }, (_, at) => String.fromCharCode(at + 32)),
  '石',
];

function moved(step: Step, shift: number): Step {
  if (step.op === 'split') return { op: 'split', first: step.first + shift, second: step.second + shift };
  return step.op === 'jump' ? { op: 'jump', to: step.to + shift } : step;
}

/** The characters that an instruction distinguishes from those no expression names. */
function lettersOf(steps: readonly Step[]): Set<string> {
  const tests = steps.flatMap((step) => (step.op === 'char' ? [step.holds] : []));
  const letters = new Set<string>();
  // The no-break space counts as a blank for [:space:]; no other character beyond US-ASCII is listed.
  for (const code of [9, ...Array.from({ length: 95 }, (_, at) => at + 32), 0xa0]) {
    if (tests.some((holds) => holds(code) !== holds(ORDINARY))) letters.add(String.fromCharCode(code));
  }
  return letters;
}
