/** What keeps the server from its database, in words; plain data, so that whoever looks needs nothing of a database. */
export interface Standing {
  readonly what: string;
  readonly remedy: string;
}

declare global {
  /** Kept where a rebuilt module finds it again. */
  var ysomerisStanding: Standing | undefined;
}

/** Null while all is well. */
export const maybeStanding = (): Standing | null => globalThis.ysomerisStanding ?? null;

export function setStanding(standing: Standing | null): void {
  if (standing) globalThis.ysomerisStanding = standing;
  else globalThis.ysomerisStanding = undefined;
}
