/** What stands at an index that is known to be there; throws where it is not. */
export function elementAt<T>(list: ArrayLike<T>, index: number): T {
  const found = list[index];
  if (found === undefined) throw new RangeError(`nothing stands at ${index} of ${list.length}`);
  return found;
}

/** What a map is known to hold; throws where it does not, naming `what`. */
export function known<K, V>(map: { get(key: K): V | undefined }, key: K, what: string): V {
  const found = map.get(key);
  if (found === undefined) throw new Error(`${what} is not known: ${String(key)}`);
  return found;
}
