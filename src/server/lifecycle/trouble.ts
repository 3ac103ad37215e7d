/** What keeps the server from its database, in words; plain data, so that whoever looks needs nothing of a database. */
export interface Standing {
  readonly what: string;
  readonly remedy: string;
}

const held = globalThis as typeof globalThis & { ysomerisStanding?: Standing };

/** Null while all is well. */
export const maybeStanding = (): Standing | null => held.ysomerisStanding ?? null;

export function setStanding(standing: Standing | null): void {
  if (standing) held.ysomerisStanding = standing;
  else delete held.ysomerisStanding;
}
