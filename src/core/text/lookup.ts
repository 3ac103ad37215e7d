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

/** The names of a table, which has no others than its type says. */
export const keysOf = <Name extends string>(table: Readonly<Partial<Record<Name, unknown>>>): Name[] =>
  Object.keys(table) as Name[];

/** The member of a list that is equal to a text; null where none is. */
export const memberOf = <Name extends string>(names: readonly Name[], text: string | null | undefined): Name | null =>
  names.find((name) => name === text) ?? null;

/**
 * A value read back from JSON that this program wrote itself, into its own database, for its own pages or into the window that reads
 * it: its form is known, and is not checked again. What comes from anyone else is read by a shape.
 */
export const ownJson = <T>(text: string): T => JSON.parse(text);
