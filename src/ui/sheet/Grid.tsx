import { VisuallyHidden } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type ClipboardEvent, type KeyboardEvent, useId, useRef } from 'react';
import type { CellFault, SHEET_COLUMNS, SheetColumn, SheetRow } from '../../core/rules/sheet';
import { readCsv } from '../../files/csv';
import type { RuleOffers } from '../../server/chain/rule-view';
import { TextButton } from '../common/TextButton';
import classes from './Sheet.module.css';

interface Props {
  readonly columns: typeof SHEET_COLUMNS;
  readonly rows: readonly SheetRow[];
  /** The faults of each row. */
  readonly faults: readonly (readonly CellFault[])[];
  readonly offers: RuleOffers;
  readonly onChange: (rows: readonly SheetRow[]) => void;
}

const ROW_HEIGHT = 32;
/** Pixels; other columns are narrower. */
const WIDTHS: Partial<Record<SheetColumn, number>> = {
  name: 150,
  sender: 175,
  subject: 130,
  folder: 140,
  tests: 220,
  exceptions: 220,
  actions: 220,
  on: 60,
  copy: 90,
  drop: 60,
  which: 90,
  ending: 85,
  flags: 95,
};

/** Cells can be typed or pasted from another sheet; Tab moves to the next cell, Enter to the cell below. */
export function Grid({ columns, rows, faults, offers, onChange }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const name = useId();
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
  });
  const write = (at: number, column: SheetColumn, cell: string) => {
    const next = rows.map((row, index) => (index === at ? { ...row, [column]: cell } : row));
    // There is always an empty row to continue with.
    onChange(at === rows.length - 1 && cell !== '' ? [...next, {}] : next);
  };
  const paste = (event: ClipboardEvent, at: number, column: number) => {
    const text = event.clipboardData.getData('text/plain');
    if (!/[\t\n]/.test(text.trimEnd())) return;
    event.preventDefault();
    const pasted = readCsv(text).rows;
    const next = Array.from({ length: Math.max(rows.length, at + pasted.length + 1) }, (_, index) => rows[index] ?? {});
    pasted.forEach((cells, down) => {
      const row = Object.fromEntries(
        cells.flatMap((cell, right) => {
          const into = columns[column + right];
          return into ? [[into.id, cell]] : [];
        }),
      );
      next[at + down] = { ...next[at + down], ...row };
    });
    onChange(next);
  };
  const go = (event: KeyboardEvent<HTMLInputElement>, at: number, column: SheetColumn) => {
    if (event.key !== 'Enter' || event.nativeEvent.isComposing) return;
    event.preventDefault();
    const below = scroller.current?.querySelector<HTMLInputElement>(
      `[data-cell="${at + (event.shiftKey ? -1 : 1)} ${column}"]`,
    );
    below?.focus();
  };
  const listOf: Partial<Record<SheetColumn, string>> = {
    folder: `${name}-folders`,
    sender: `${name}-senders`,
    exceptSender: `${name}-senders`,
    recipient: `${name}-own`,
    list: `${name}-lists`,
  };
  const template = `44px ${columns.map(({ id }) => `${WIDTHS[id] ?? 120}px`).join(' ')} 34px 1fr`;
  return (
    <div ref={scroller} className={classes.grid} role="table" aria-label="Rules as a sheet" aria-rowcount={rows.length}>
      <div role="row" className={classes.headRow} style={{ gridTemplateColumns: template }}>
        <span role="columnheader">Row</span>
        {columns.map(({ id, title, hint }) => (
          <span key={id} role="columnheader" title={hint}>
            {title}
          </span>
        ))}
        <span role="columnheader">
          <VisuallyHidden>Remove</VisuallyHidden>
        </span>
      </div>
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map(({ index, start }) => (
          <div
            key={index}
            role="row"
            aria-rowindex={index + 1}
            className={classes.row}
            style={{ top: start, gridTemplateColumns: template }}
          >
            <span role="cell" className={classes.soft}>
              {index + 1}
            </span>
            {columns.map(({ id, title }, column) => {
              const fault = faults[index]?.find((one) => one.column === id);
              return (
                <span key={id} role="cell">
                  <input
                    data-cell={`${index} ${id}`}
                    className={classes.cell}
                    aria-label={`${title}, row ${index + 1}`}
                    aria-invalid={fault ? true : undefined}
                    title={fault?.words}
                    spellCheck={false}
                    list={listOf[id]}
                    value={rows[index]?.[id] ?? ''}
                    onChange={(event) => write(index, id, event.currentTarget.value)}
                    onPaste={(event) => paste(event, index, column)}
                    onKeyDown={(event) => go(event, index, id)}
                  />
                </span>
              );
            })}
            <span role="cell">
              <TextButton
                aria-label={`Remove row ${index + 1}`}
                onClick={() => onChange(rows.length > 1 ? rows.filter((_, at) => at !== index) : [{}])}
              >
                ×
              </TextButton>
            </span>
          </div>
        ))}
      </div>
      <Offered id={`${name}-folders`} values={offers.folders} />
      <Offered id={`${name}-senders`} values={offers.senders.map((one) => (one.includes('@') ? one : `@${one}`))} />
      <Offered id={`${name}-own`} values={offers.own} />
      <Offered id={`${name}-lists`} values={offers.lists} />
    </div>
  );
}

function Offered({ id, values }: { id: string; values: readonly string[] }) {
  return (
    <datalist id={id}>
      {values.map((value) => (
        <option key={value} value={value} />
      ))}
    </datalist>
  );
}
