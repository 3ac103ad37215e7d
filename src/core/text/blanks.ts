/** A text without certain characters at either end, in time that is linear whatever stands in it. */
export function trimOf(characters: string, text: string): string {
  let start = 0;
  let end = text.length;
  while (start < end && characters.includes(text[start] as string)) start++;
  while (end > start && characters.includes(text[end - 1] as string)) end--;
  return start === 0 && end === text.length ? text : text.slice(start, end);
}
