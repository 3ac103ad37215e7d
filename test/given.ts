import type { Server } from 'node:net';
import type { ChainEntry, Rule } from '../src/core/rules/rule';

/** What must be there for a test to go on; throws where it is not. */
export function given<T>(value: T | null | undefined): T {
  if (value === undefined || value === null) throw new Error('what the test goes on with is not there');
  return value;
}

/** A rule by its place or its name; throws where it is a script block. */
export function ruleAt(entries: readonly ChainEntry[], at: number | string): Rule {
  const entry = given(typeof at === 'number' ? entries[at] : entries.find(({ name }) => name === at));
  if (entry.kind !== 'rule') throw new Error(`“${entry.name}” is a script block`);
  return entry;
}

/** All entries, none of which is a script block. */
export const rulesOf = (entries: readonly ChainEntry[]): Rule[] => entries.map((_, at) => ruleAt(entries, at));

/** The port that a server has come to listen on. */
export function portOf(server: Server): number {
  const address = server.address();
  if (typeof address !== 'object' || address === null) throw new Error('the server does not listen on a port');
  return address.port;
}

/** What was thrown, which must be of a class. */
export function thrownAs<T>(Class: abstract new (...args: never[]) => T, error: unknown): T {
  if (!(error instanceof Class)) throw error;
  return error;
}
