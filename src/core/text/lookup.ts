/** The element at an index that must exist; throws otherwise. */
export function elementAt<T>(list: ArrayLike<T>, index: number): T {
  const found = list[index];
  if (found === undefined) throw new RangeError(`nothing stands at ${index} of ${list.length}`);
  return found;
}

/** The value of a key that must exist; throws otherwise, naming `what`. */
export function known<K, V>(map: { get(key: K): V | undefined }, key: K, what: string): V {
  const found = map.get(key);
  if (found === undefined) throw new Error(`${what} is not known: ${String(key)}`);
  return found;
}

/** The keys of a table, typed as its declared keys. */
export const keysOf = <Name extends string>(table: Readonly<Partial<Record<Name, unknown>>>): Name[] =>
  Object.keys(table) as Name[];

/** The member of a list equal to a text; null if there is none. */
export const memberOf = <Name extends string>(names: readonly Name[], text: string | null | undefined): Name | null =>
  names.find((name) => name === text) ?? null;

/**
 * Parses JSON that this program wrote itself (database, own pages, same window), so its shape is not checked again.
 * Anything else must be parsed by a shape.
 */
export const ownJson = <T>(text: string): T => JSON.parse(text);

/** The items of each key, in their order. */
export function groupedBy<Key, Item>(items: Iterable<Item>, keyOf: (item: Item) => Key): Map<Key, Item[]> {
  const groups = new Map<Key, Item[]>();
  for (const item of items) {
    const key = keyOf(item);
    const own = groups.get(key);
    if (own) own.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}
