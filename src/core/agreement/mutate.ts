import { elementAt } from '../text/lookup';
/** Pieces of scripts, valid and broken, for texts that are nearly scripts. */
export const PIECES = [
  '{',
  '}',
  '(',
  ')',
  '[',
  ']',
  ';',
  ',',
  '"',
  '#',
  '/*',
  '*/',
  'text:',
  'text:\n',
  '\n.\n',
  ':is',
  ':comparator',
  'if ',
  'else',
  'elsif ',
  'not ',
  'anyof',
  'allof',
  'require',
  'keep',
  'stop',
  '\n',
  '\r\n',
  '\\',
  '\0',
  '5K',
  '0',
  '99999999999999999999',
  'é',
  '漢',
  '\u{1f33e}',
  '\ud800',
  '${',
  '${1}',
  '${hex:',
  ' ',
  '\t',
  'foreverypart ',
  'set ',
  'include ',
  'ihave ',
  '::',
  ':',
]; // prettier-ignore

/** A small random generator: 100,000 inputs in seconds, the same in each run. */
export function numbers(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
}

/** A text with pieces deleted, doubled or inserted at one to five places. */
export function mutated(source: string, next: (below: number) => number): string {
  let text = source;
  const piece = () => elementAt(PIECES, next(PIECES.length));
  for (let count = 1 + next(5); count > 0; count--) {
    const at = next(text.length + 1);
    switch (next(4)) {
      case 0:
        text = text.slice(0, at) + text.slice(at + 1 + next(20));
        break;
      case 1:
        text = text.slice(0, at) + piece() + text.slice(at);
        break;
      case 2:
        text = text.slice(0, at) + piece() + text.slice(at + 1 + next(6));
        break;
      default: {
        const from = next(text.length + 1);
        text = text.slice(0, at) + text.slice(from, from + next(60)) + text.slice(at);
      }
    }
  }
  return text;
}
