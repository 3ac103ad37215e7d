import Papa from 'papaparse';
import { maybeDecode } from '../core/mail/charset';

/** A sheet as CSV (RFC 4180), separated by commas, semicolons or tabs. */
export interface ReadCsv {
  readonly rows: readonly (readonly string[])[];
  /** An irregularity of the file, in plain words. */
  readonly odd: readonly string[];
}

const MOST_ROWS = 20_000;

/** Reads CSV; blank lines are left out. Formulas of a spreadsheet are plain text here. */
export function readCsv(text: string): ReadCsv {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' });
  const rows = data.slice(0, MOST_ROWS).map((row) => row.map((cell) => cell.replace(/^'(?=[=+\-@\t\r])/, '')));
  const odd = errors
    .filter(({ type }) => type !== 'Delimiter')
    .slice(0, 5)
    .map(({ message, row }) => (row === undefined ? message : `row ${row + 1}: ${message}`));
  if (data.length > MOST_ROWS) odd.push(`only the first ${MOST_ROWS} rows are read`);
  return { rows, odd };
}

/**
 * Writes CSV. A cell that a spreadsheet would run as a formula gets an apostrophe in front (common practice), which
 * `readCsv` removes.
 */
export function writeCsv(rows: readonly (readonly string[])[]): string {
  // The library's type asks for mutable lists, though it does not change them.
  return `${Papa.unparse(rows as string[][], { escapeFormulae: /^[=+\-@\t\r]/, newline: '\r\n' })}\r\n`;
}

/** Decodes a file as UTF-8 or UTF-16, else as windows-1252. */
export function decodeText(octets: Uint8Array): string {
  const [first, second] = octets;
  if (first === 0xff && second === 0xfe) return new TextDecoder('utf-16le').decode(octets);
  if (first === 0xfe && second === 0xff) return new TextDecoder('utf-16be').decode(octets);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(octets);
  } catch {
    return maybeDecode(octets, 'windows-1252') ?? '';
  }
}
