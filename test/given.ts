import type { Server } from 'node:net';
import type { ChainEntry, Rule } from '../src/core/rules/rule';

/** A value that must exist for a test to continue; throws otherwise. */
export function given<T>(value: T | null | undefined): T {
  if (value === undefined || value === null) throw new Error('what the test goes on with is not there');
  return value;
}

/** A rule by index or name; throws for a script block. */
export function ruleAt(entries: readonly ChainEntry[], at: number | string): Rule {
  const entry = given(typeof at === 'number' ? entries[at] : entries.find(({ name }) => name === at));
  if (entry.kind !== 'rule') throw new Error(`“${entry.name}” is a script block`);
  return entry;
}

/** All entries, which must be rules. */
export const rulesOf = (entries: readonly ChainEntry[]): Rule[] => entries.map((_, at) => ruleAt(entries, at));

/** The port that a server listens on. */
export function portOf(server: Server): number {
  const address = server.address();
  if (typeof address !== 'object' || address === null) throw new Error('the server does not listen on a port');
  return address.port;
}

/** The thrown error, which must be of a class. */
export function thrownAs<T>(Class: abstract new (...args: never[]) => T, error: unknown): T {
  if (!(error instanceof Class)) throw error;
  return error;
}

/** What some work fails with; null if it succeeds. */
export const failing = (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => null,
    (error: unknown) => error,
  );
