/**
 * What proofs may take for granted about messages, beyond what the reader of mail guarantees. Each is a literal of its
 * own in the search, so that the core of a conflict names those a proof used.
 */
export type Assumption =
  /** From occurs at most once and names at most one address. */
  | 'one-from'
  /** An address that `address` sees is part of the field's text as `header` sees it: no comments or quoting inside. */
  | 'plain-address'
  /** Subject, Date, To, Cc, Reply-To, Sender and Message-ID occur at most once (RFC 5322 section 3.6). */
  | 'single-fields'
  /**
   * The rest of RFC 5322: From is there, values follow their grammar, no control characters; and the envelope is
   * complete (RFC 5321 section 4.1.1).
   */
  | 'well-formed';

export type Assumptions = ReadonlySet<Assumption>;

/** In the order in which they are named. */
export const ALL_ASSUMPTIONS: readonly Assumption[] = ['one-from', 'plain-address', 'single-fields', 'well-formed'];

/** Example messages keep all of them unless the claim needs otherwise. */
export const NATURAL: Assumptions = new Set(ALL_ASSUMPTIONS);

/** For claims about a rule: a rule may be there for mail that breaks the other two. */
export const PROOF: Assumptions = new Set<Assumption>(['one-from', 'plain-address']);

/** For comparisons of chains, and for pairs of rules. */
export const COMPARISON: Assumptions = new Set<Assumption>(['one-from', 'plain-address', 'single-fields']);

/** Whether a proof that used the first is admissible where the second is allowed. */
export const areWithin = (used: Iterable<Assumption>, allowed: Assumptions): boolean =>
  [...used].every((one) => allowed.has(one));

/** The members of all sets together, in the usual order. */
export function joinedAssumptions(...sets: readonly Iterable<Assumption>[]): Assumption[] {
  const all = new Set(sets.flatMap((set) => [...set]));
  return ALL_ASSUMPTIONS.filter((one) => all.has(one));
}
