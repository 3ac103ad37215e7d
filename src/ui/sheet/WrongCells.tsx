import { type CellFault, SHEET_COLUMNS } from '../../core/rules/sheet';
import { formatNumber } from '../common/format';
import classes from './Sheet.module.css';

const SHOWN = 8;

/** What is wrong in the sheet, by the row and the column. */
export function WrongCells({ wrong }: { wrong: readonly (CellFault & { readonly at: number })[] }) {
  if (wrong.length === 0) return null;
  return (
    <ul className={classes.faults} aria-label="What is wrong in the sheet">
      {wrong.slice(0, SHOWN).map(({ at, column, words }) => (
        <li key={`${at} ${column} ${words}`}>
          Row {at + 1}, {SHEET_COLUMNS.find(({ id }) => id === column)?.title}: {words}
        </li>
      ))}
      {wrong.length > SHOWN && <li>and {formatNumber(wrong.length - SHOWN)} more</li>}
    </ul>
  );
}
