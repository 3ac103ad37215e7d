import { Button, Checkbox, Select } from '@mantine/core';
import { useState } from 'react';
import { columnNamed, named, SHEET_COLUMNS, type SheetColumn, type SheetRow } from '../../core/rules/sheet';
import { formatNumber } from '../common/format';
import { WhyButton } from '../common/WhyButton';
import classes from './Sheet.module.css';

interface Props {
  readonly rows: readonly (readonly string[])[];
  /** Called with the rows in our columns; null if cancelled. */
  readonly onDone: (rows: readonly SheetRow[] | null) => void;
}

const SHOWN = 3;

/** A header row has words only: no address, and an address below, or longer texts below (common practice). */
function looksLikeHeads([heads = [], ...rows]: readonly (readonly string[])[]): boolean {
  if (rows.length === 0 || heads.some((cell) => cell.includes('@') || cell.trim() === '')) return false;
  return rows.some((cells) => cells.some((cell) => cell.includes('@')));
}

/** Assigns columns of another sheet to ours; the user corrects what the column titles do not tell. */
export function Mapping({ rows, onDone }: Props) {
  const heads = rows[0] ?? [];
  const guessed = heads.map(columnNamed);
  const [headed, setHeaded] = useState(guessed.some((column) => column !== null) || looksLikeHeads(rows));
  const [columns, setColumns] = useState<readonly (SheetColumn | null)[]>(guessed);
  const body = headed ? rows.slice(1) : rows;
  const used = columns.filter((column) => column !== null);
  const twice = used.find((column, at) => used.indexOf(column) !== at);
  const obstacle =
    body.length === 0
      ? 'There are no rows.'
      : used.length === 0
        ? 'Say what a column means first.'
        : twice === undefined
          ? null
          : 'Two columns have one meaning.';
  const take = () =>
    onDone(
      body.map((cells) =>
        named(
          Object.fromEntries(
            columns.flatMap((column, at) => (column !== null && cells[at] ? [[column, cells[at]]] : [])),
          ),
        ),
      ),
    );
  return (
    <section className={classes.mapping} aria-label="Columns">
      <h2 className={classes.heading}>Meaning of the columns</h2>
      <div className={classes.mapped}>
        <table>
          <thead>
            <tr>
              {columns.map((column, at) => (
                // Columns of a file without a header row are named by position.
                <th key={`column ${at + 1}`}>
                  <Select<SheetColumn>
                    size="xs"
                    aria-label={`Column ${at + 1} is`}
                    placeholder="left out"
                    clearable
                    searchable
                    value={column}
                    data={SHEET_COLUMNS.map(({ id, title }) => ({ value: id, label: title }))}
                    onChange={(value) => setColumns(columns.with(at, value))}
                    comboboxProps={{ width: 'max-content', position: 'bottom-start' }}
                  />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, SHOWN + 1).map((cells, at) => (
              <tr key={`row ${at + 1}`} data-head={(headed && at === 0) || undefined}>
                {columns.map((_, column) => (
                  <td key={`cell ${column + 1}`}>{cells[column]}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className={classes.buttons}>
        <Checkbox
          size="xs"
          label="the first row contains the column names"
          checked={headed}
          onChange={(event) => setHeaded(event.currentTarget.checked)}
        />
        <WhyButton size="compact-sm" onClick={take} why={obstacle}>
          Import {formatNumber(body.length)} {body.length === 1 ? 'row' : 'rows'}
        </WhyButton>
        <Button size="compact-sm" variant="subtle" onClick={() => onDone(null)}>
          Cancel
        </Button>
        {twice !== undefined && (
          <span role="alert">
            Two columns have the meaning “{SHEET_COLUMNS.find(({ id }) => id === twice)?.title}”.
          </span>
        )}
      </div>
    </section>
  );
}
