/**
 * A small Boolean algebra, in which what becomes of mail is worked out: sets of messages, or formulas over what can be known of a
 * message. See `FateState`.
 */
export interface Algebra<T> {
  readonly none: T;
  readonly all: T;
  and(a: T, b: T): T;
  or(a: T, b: T): T;
  /** What is in `a` and not in `b`. */
  without(a: T, b: T): T;
  /** Whether it is known to be none. */
  isNone(a: T): boolean;

  // A collection belongs to whoever began it, and may be changed in place: what comes back is the collection from then on.

  /** An empty collection. */
  begin(): T;
  adding(collection: T, more: T): T;
  removing(collection: T, less: T): T;
  /** Like `model` within `where`, and as it was elsewhere. */
  replacing(collection: T, where: T, model: T): T;
}
