type Query = Readonly<Record<string, string | string[] | undefined>>;

/** The query parameters of a page; of repeated ones the first counts. */
export async function queryOf(searchParams: Promise<Query>): Promise<Readonly<Record<string, string | undefined>>> {
  const all = Object.entries(await searchParams);
  return Object.fromEntries(all.map(([name, value]) => [name, Array.isArray(value) ? value[0] : value]));
}
