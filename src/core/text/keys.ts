/** The names of a table, which has no others than its type says. */
export const keysOf = <Name extends string>(table: Readonly<Partial<Record<Name, unknown>>>): Name[] =>
  Object.keys(table) as Name[];

/** The member of a list that is equal to a text; null where none is. */
export const memberOf = <Name extends string>(names: readonly Name[], text: string | null | undefined): Name | null =>
  names.find((name) => name === text) ?? null;
