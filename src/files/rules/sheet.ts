import { chainFromSheet, isSheet, sheetOf } from '../../core/rules/sheet';
import { decodeText, readCsv, writeCsv } from '../csv';
import type { RulesForm } from './form';

/** A sheet of rules (CSV, RFC 4180), a row for each. */
export const sheet: RulesForm = {
  title: 'sheet of rules',
  is: (fileName) => /\.(csv|tsv)$/i.test(fileName),
  read: (octets) => {
    const source = decodeText(octets);
    const { rows, odd } = readCsv(source);
    if (!isSheet(rows)) return { ok: false, reason: 'this sheet has no column “Rule”', place: null };
    const { chain, faults } = chainFromSheet(rows);
    const told = faults.map(({ row, column, words }) => ({ at: `row ${row + 1}, ${column}`, words, entry: null }));
    return { ok: true, chain, source, faults: [...odd.map((words) => ({ at: '', words, entry: null })), ...told] };
  },
  write: (chain) => writeCsv(sheetOf(chain)),
};
