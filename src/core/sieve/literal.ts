import { ENCODED } from './encoded';
import { REFERENCE } from './interpret/expand';

/** What a script requires that changes how its strings are read. */
export interface StringReading {
  readonly variables: boolean;
  readonly encoded: boolean;
  /** The name of a variable that the script never sets. */
  readonly unset: string;
}

/** Names of the variables by which references are kept from being read. */
export const UNSET_NAME = /^nothing\d{0,9}$/i;

/**
 * Writes a string that means exactly its characters where a script requires `variables` or `encoded-character`, though
 * neither has an escape of its own. `${hex:40}` becomes `${hex:24}{hex:40}`, since what was decoded is not decoded again
 * (RFC 5228 section 2.4.2.4); `${x}` becomes `$${nothing}{x}`, since a variable that is not set gives nothing, and what
 * was put in is not looked at again (RFC 5229 section 3).
 */
export function literal(value: string, { variables, encoded, unset }: StringReading): string {
  if (!value.includes('${')) return value;
  const undecoded = encoded ? value.replace(ENCODED, (forms) => forms.replaceAll('$', () => '${hex:24}')) : value;
  return variables ? undecoded.replace(REFERENCE, (form) => `$\${${unset}}${form.slice(1)}`) : undecoded;
}
