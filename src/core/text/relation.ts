/** How a value relates to a key (RFC 5231 section 4.1). */
export type Relation = 'gt' | 'ge' | 'lt' | 'le' | 'eq' | 'ne';

/** Whether a relation holds, by an order that is below, at or above 0. */
export const RELATIONS: Readonly<Record<Relation, (order: number) => boolean>> = {
  gt: (order) => order > 0,
  ge: (order) => order >= 0,
  lt: (order) => order < 0,
  le: (order) => order <= 0,
  eq: (order) => order === 0,
  ne: (order) => order !== 0,
};
