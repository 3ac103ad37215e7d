import type { LeafTest } from '../rules/rule';

type Keyed = Extract<LeafTest, { readonly test: 'header' | 'address' }>;

const parts = new WeakMap<LeafTest, readonly Keyed[]>();

/** A test with the keys of both; the two differ in their keys only. */
export function withKeysOf(a: Keyed, b: Keyed): Keyed {
  const test = { ...a, keys: [...new Set([...a.keys, ...b.keys])] };
  parts.set(test, [a, b]);
  return test;
}

/** The tests whose keys a test has, if it was made so: it matches what any of them matches (RFC 5228 section 2.7). */
export const joinedFrom = (test: LeafTest): readonly Keyed[] | null => parts.get(test) ?? null;
