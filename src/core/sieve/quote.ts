/**
 * A quoted string (RFC 5228 section 2.4.2): only the backslash and the quotation mark are escaped. NUL is not allowed.
 */
export function quote(value: string): string {
  return `"${value.replaceAll('\0', '').replace(/[\\"]/g, '\\$&')}"`;
}
