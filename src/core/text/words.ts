/**
 * Whether texts together contain all words that were asked for, in any order and case, each anywhere: what is found by
 * words is found so everywhere, on the server and on the pages. Nothing contains no words.
 */
export function containing(asked: string): (...texts: readonly string[]) => boolean {
  const words = asked
    .toLocaleLowerCase('en')
    .split(/\s+/)
    .filter((word) => word !== '');
  return (...texts) => {
    const text = texts.join('\n').toLocaleLowerCase('en');
    return words.length > 0 && words.every((word) => text.includes(word));
  };
}
