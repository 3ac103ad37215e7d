let format: Intl.NumberFormat | null = null;

/** A number in digits. The formatter is made once, and only when it is needed: that alone takes some 20 ms. */
export function figure(count: number): string {
  format ??= new Intl.NumberFormat('en-GB');
  return format.format(count);
}
