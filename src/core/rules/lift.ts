import type { CommandNode } from '../sieve/tree';
import { statementEffects } from './effects';
import type { TestTree } from './rule';

/** Tests all of which must hold. */
export type Guard = readonly TestTree[];

/**
 * Whether nested branches can be taken apart into rules: a condition is written down again for each rule it governs,
 * which is the same only as long as it cannot change between them. Only flags can change during a run.
 */
export function ruleable(branches: readonly CommandNode[]): boolean {
  const { reads, writes } = statementEffects(branches, false);
  return !(reads.has('flags') && writes.has('flags'));
}
