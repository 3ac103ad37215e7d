import { elementAt } from '../../text/lookup';
/**
 * Extended regular expressions of POSIX (IEEE Std 1003.1 section 9.4), as the regex match type of Sieve takes them
 * (Internet-Draft draft-ietf-sieve-regex), on an engine whose time is linear in the text: all states are followed at once
 * (Thompson 1968; Pike's way of keeping captures). Where several matches are possible the leftmost is taken, and of those the
 * longest (IEEE Std 1003.1 section 9.1); of several ways to the same match the one that the order of the pattern prefers, as
 * the C library that servers use has it.
 */
export interface Regex {
  /** The compiled machine, for other readers of it. */
  readonly steps: readonly Step[];
  /** Spans of the whole match and of each group (null if it took no part), or null. */
  readonly match: (text: string) => readonly ({ readonly start: number; readonly end: number } | null)[] | null;
  readonly groups: number;
}

export class RegexFault extends Error {}

/** Instructions of the compiled machine; characters are code units of UTF-16. */
export type Step =
  | { readonly op: 'char'; readonly holds: (code: number) => boolean }
  | { op: 'split'; first: number; second: number }
  | { op: 'jump'; to: number }
  | { readonly op: 'save'; readonly slot: number }
  | { readonly op: 'start' }
  | { readonly op: 'end' }
  | { readonly op: 'match' };

/** The checker rejects larger machines. */
const STEP_LIMIT = 5000;

/** Letters whose two cases are the same: none, those of ASCII, or all that have one other form. */
export type Caseless = 'none' | 'ascii' | 'unicode';

/** Throws `RegexFault` with the fault. */
export function compileRegex(source: string, caseless: Caseless): Regex {
  const parser = new Parser(source, caseless);
  const steps = parser.parse();
  const { groups } = parser;
  return { steps, groups, match: (text) => run(steps, text, 2 * (groups + 1)) };
}

class Parser {
  readonly #steps: Step[] = [];
  #at = 0;
  groups = 0;

  constructor(
    readonly source: string,
    readonly caseless: Caseless,
  ) {}

  parse(): Step[] {
    this.#push({ op: 'save', slot: 0 });
    this.#alternatives(0);
    if (this.#at < this.source.length) throw new RegexFault('a ) without a matching (');
    this.#push({ op: 'save', slot: 1 });
    this.#push({ op: 'match' });
    return this.#steps;
  }

  #push(step: Step): number {
    if (this.#steps.length >= STEP_LIMIT) throw new RegexFault('the expression is too large');
    return this.#steps.push(step) - 1;
  }

  // a|b|c
  #alternatives(depth: number): void {
    if (depth > 100) throw new RegexFault('groups are nested too deep');
    const exits: number[] = [];
    for (;;) {
      const start = this.#steps.length;
      this.#sequence(depth);
      if (this.source[this.#at] !== '|') break;
      this.#at++;
      // Moves the last instruction down by one, after the split.
      const branch = this.#cut(start);
      const split = this.#push({ op: 'split', first: start + 1, second: 0 });
      this.#paste(branch, start);
      exits.push(this.#push({ op: 'jump', to: 0 }));
      this.#land(split);
    }
    for (const exit of exits) this.#land(exit);
  }

  #sequence(depth: number): void {
    while (this.#at < this.source.length && !'|)'.includes(this.source.charAt(this.#at))) {
      const start = this.#steps.length;
      this.#atom(depth);
      while ('*+?{'.includes(this.source[this.#at] ?? '\n') && this.#repeat(start)) {
        // several marks may follow each other
      }
    }
  }

  #atom(depth: number): void {
    const character = this.source.charAt(this.#at++);
    switch (character) {
      case '(': {
        const group = ++this.groups;
        this.#push({ op: 'save', slot: 2 * group });
        this.#alternatives(depth + 1);
        if (this.source[this.#at++] !== ')') throw new RegexFault('a ( without a matching )');
        this.#push({ op: 'save', slot: 2 * group + 1 });
        return;
      }
      case '^':
        this.#push({ op: 'start' });
        return;
      case '$':
        this.#push({ op: 'end' });
        return;
      case '.':
        this.#push({ op: 'char', holds: () => true });
        return;
      case '[':
        this.#push({ op: 'char', holds: this.#bracket() });
        return;
      case '*':
      case '+':
      case '?':
        throw new RegexFault(`a ${character} with nothing to repeat`);
      case '\\':
        if (this.#at >= this.source.length) throw new RegexFault('a backslash at the end');
        if (/[1-9]/.test(this.source.charAt(this.#at)))
          throw new RegexFault('back-references cannot be matched in linear time');
        this.#literal(this.source.charAt(this.#at++));
        return;
      default:
        this.#literal(character);
    }
  }

  #literal(character: string): void {
    const code = character.charCodeAt(0);
    this.#push({ op: 'char', holds: this.#eitherCase((other) => other === code) });
  }

  /** + ? {n} {n,} {n,m} after the atom that starts at `start`. False for a literal {. */
  #repeat(start: number): boolean {
    const character = this.source.charAt(this.#at);
    if (character !== '{') {
      this.#at++;
      const body = this.#cut(start);
      this.#times(body, start, character === '+' ? 1 : 0, character === '?' ? 1 : Infinity);
      return true;
    }
    const bounds = /^\{(\d+)(?:(,)(\d*))?\}/.exec(this.source.slice(this.#at));
    if (!bounds) throw new RegexFault('a { without a repeat count');
    const least = Number(bounds[1]);
    const most = bounds[2] === undefined ? least : bounds[3] === '' ? Infinity : Number(bounds[3]);
    if (least > 255 || (most !== Infinity && (most > 255 || most < least)))
      throw new RegexFault(`${bounds[0]} is out of range`);
    this.#at += bounds[0].length;
    this.#times(this.#cut(start), start, least, most);
    return true;
  }

  #times(body: readonly Step[], origin: number, least: number, most: number): void {
    for (let count = 0; count < least - (most === Infinity ? 1 : 0); count++) this.#paste(body, origin);
    if (most === Infinity) {
      // The jump back is after the body, so that a body that matches nothing still counts as matched once.
      const skip = least === 0 ? this.#push({ op: 'split', first: this.#steps.length + 1, second: 0 }) : null;
      const again = this.#steps.length;
      this.#paste(body, origin);
      const split = this.#push({ op: 'split', first: again, second: 0 });
      for (const step of skip === null ? [split] : [skip, split]) {
        this.#land(step);
      }
      return;
    }
    const splits: number[] = [];
    for (let count = least; count < most; count++) {
      splits.push(this.#push({ op: 'split', first: this.#steps.length + 1, second: 0 }));
      this.#paste(body, origin);
    }
    for (const split of splits) this.#land(split);
  }

  /** Points a split or jump at the next instruction. */
  #land(at: number): void {
    const step = this.#steps[at];
    if (step?.op === 'split') this.#steps[at] = { ...step, second: this.#steps.length };
    else if (step?.op === 'jump') this.#steps[at] = { ...step, to: this.#steps.length };
  }

  #cut(start: number): Step[] {
    return this.#steps.splice(start);
  }

  /** Appends instructions cut at `origin`, with their jumps relocated. */
  #paste(body: readonly Step[], origin: number): void {
    const shift = this.#steps.length - origin;
    for (const step of body) {
      if (step.op === 'split') this.#push({ op: 'split', first: step.first + shift, second: step.second + shift });
      else if (step.op === 'jump') this.#push({ op: 'jump', to: step.to + shift });
      else this.#push(step);
    }
  }

  // [^]a-z[:digit:]]
  #bracket(): (code: number) => boolean {
    const negated = this.source[this.#at] === '^';
    if (negated) this.#at++;
    const parts: ((code: number) => boolean)[] = [];
    const first = this.#at;
    for (;;) {
      const character = this.source[this.#at];
      if (character === undefined) throw new RegexFault('a [ without a matching ]');
      if (character === ']' && this.#at > first) break;
      const named = /^\[:([a-z]+):\]/.exec(this.source.slice(this.#at, this.#at + 14));
      if (named) {
        const known = CLASSES[named[1] ?? ''];
        if (!known) throw new RegexFault(`there is no class ${named[0]}`);
        parts.push(known);
        this.#at += named[0].length;
        continue;
      }
      this.#at++;
      if (
        this.source[this.#at] === '-' &&
        this.source[this.#at + 1] !== ']' &&
        this.source[this.#at + 1] !== undefined
      ) {
        const last = this.source.charAt(this.#at + 1);
        this.#at += 2;
        parts.push(this.#range(character, last));
      } else parts.push(this.#range(character, character));
    }
    this.#at++;
    const any = this.#eitherCase((code) => parts.some((part) => part(code)));
    return (code) => any(code) !== negated;
  }

  #eitherCase(holds: (code: number) => boolean): (code: number) => boolean {
    if (this.caseless === 'none') return holds;
    const other = this.caseless === 'ascii' ? otherAscii : otherLetter;
    return (code) => holds(code) || holds(other(code));
  }

  #range(first: string, last: string): (code: number) => boolean {
    const [low, high] = [first.charCodeAt(0), last.charCodeAt(0)];
    if (high < low) throw new RegexFault(`the range ${first}-${last} is empty`);
    return (code) => code >= low && code <= high;
  }
}

/** The letter in the other case; any other character unchanged. */
function otherAscii(code: number): number {
  const lower = code | 32;
  return lower >= 97 && lower <= 122 ? code ^ 32 : code;
}

function otherLetter(code: number): number {
  if (code < 128) return otherAscii(code);
  const letter = String.fromCharCode(code);
  const upper = letter.toUpperCase();
  const other = upper === letter ? letter.toLowerCase() : upper;
  return other.length === 1 ? other.charCodeAt(0) : code;
}

const code = (pattern: RegExp) => (value: number) => pattern.test(String.fromCharCode(value));
const CLASSES: Readonly<Record<string, (code: number) => boolean>> = {
  alpha: code(/[A-Za-z]/),
  digit: code(/[0-9]/),
  alnum: code(/[A-Za-z0-9]/),
  upper: code(/[A-Z]/),
  lower: code(/[a-z]/),
  space: code(/\s/),
  blank: code(/[ \t]/),
  punct: code(/[!-/:-@[-`{-~]/),
  xdigit: code(/[0-9A-Fa-f]/),
  print: (value) => value >= 32 && value !== 127,
  graph: (value) => value > 32 && value !== 127,
  cntrl: (value) => value < 32 || value === 127,
};

interface Thread {
  readonly at: number;
  readonly saved: readonly (number | undefined)[];
}

function run(steps: readonly Step[], text: string, slots: number): ReturnType<Regex['match']> {
  let threads: Thread[] = [];
  let found: readonly (number | undefined)[] | null = null;
  for (let place = 0; place <= text.length; place++) {
    const seen = new Uint8Array(steps.length);
    const current: Thread[] = [];
    for (const thread of threads) follow(steps, thread, place, text.length, seen, current);
    // After a match, later starts are irrelevant.
    if (!found) follow(steps, { at: 0, saved: new Array(slots).fill(undefined) }, place, text.length, seen, current);
    threads = [];
    for (const thread of current) {
      const step = steps[thread.at];
      if (step?.op === 'match') {
        if (isBetter(thread.saved, found)) found = thread.saved;
        continue;
      }
      if (step?.op === 'char' && place < text.length && step.holds(text.charCodeAt(place))) {
        threads.push({ at: thread.at + 1, saved: thread.saved });
      }
    }
    // Threads that start after a match are irrelevant.
    const first: number | undefined = found?.[0];
    if (first !== undefined) threads = threads.filter(({ saved }) => (saved[0] ?? 0) <= first);
    if (found && threads.length === 0) break;
  }
  if (!found) return null;
  const spans: ({ start: number; end: number } | null)[] = [];
  for (let slot = 0; slot < slots; slot += 2) {
    const [start, end] = [found[slot], found[slot + 1]];
    spans.push(start === undefined || end === undefined ? null : { start, end });
  }
  return spans;
}

/** Of two matches, the one that starts first, then the longer one, then the one found first. */
function isBetter(saved: Thread['saved'], found: Thread['saved'] | null): boolean {
  if (!found) return true;
  const [start = 0, end = 0] = saved;
  const [before = 0, last = 0] = found;
  return start < before || (start === before && end > last);
}

/** Adds a thread and its closure over empty transitions, in order of preference. */
function follow(
  steps: readonly Step[],
  thread: Thread,
  place: number,
  length: number,
  seen: Uint8Array,
  into: Thread[],
): void {
  const stack: Thread[] = [thread];
  for (let next = stack.pop(); next; next = stack.pop()) {
    if (seen[next.at]) continue;
    seen[next.at] = 1;
    const step = elementAt(steps, next.at);
    switch (step.op) {
      case 'jump':
        stack.push({ at: step.to, saved: next.saved });
        break;
      case 'split':
        stack.push({ at: step.second, saved: next.saved }, { at: step.first, saved: next.saved });
        break;
      case 'save':
        stack.push({ at: next.at + 1, saved: next.saved.with(step.slot, place) });
        break;
      case 'start':
        if (place === 0) stack.push({ at: next.at + 1, saved: next.saved });
        break;
      case 'end':
        if (place === length) stack.push({ at: next.at + 1, saved: next.saved });
        break;
      default:
        into.push(next);
    }
  }
}
