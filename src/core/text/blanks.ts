import { elementAt } from './lookup';
/** Trims certain characters from both ends, in linear time for any text. */
export function trimOf(characters: string, text: string): string {
  let start = 0;
  let end = text.length;
  while (start < end && characters.includes(elementAt(text, start))) start++;
  while (end > start && characters.includes(elementAt(text, end - 1))) end--;
  return start === 0 && end === text.length ? text : text.slice(start, end);
}
