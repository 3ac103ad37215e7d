import {
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { VisuallyHidden } from '@mantine/core';
import { IconGripVertical } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type ClipboardEvent, type CSSProperties, type KeyboardEvent, type ReactNode, useId, useRef } from 'react';
import type { Rule } from '../../core/rules/rule';
import type { CellFault, SheetColumn, SheetRow } from '../../core/rules/sheet';
import { readCsv } from '../../files/csv';
import type { RuleOffers } from '../../server/chain/rule-view';
import type { TypedCounts } from '../../server/chain/typed-view';
import { TextButton } from '../common/TextButton';
import { CaughtWords } from '../typed/CaughtWords';
import classes from './Sheet.module.css';

/** A column as it is shown. */
export interface GridColumn {
  readonly id: SheetColumn;
  readonly title: string;
  readonly hint: string;
}

/** What a row says. */
export interface RowState {
  /** Faults and warnings, by cell. */
  readonly marks: readonly CellFault[];
  /** Null while it has faults, or is empty. */
  readonly rule: Rule | null;
  readonly counts: TypedCounts | null;
}

interface Props {
  readonly auditId: string;
  readonly columns: readonly GridColumn[];
  readonly rows: readonly SheetRow[];
  readonly states: readonly RowState[];
  /** Stored messages that take part. */
  readonly total: number;
  readonly offers: RuleOffers;
  readonly onChange: (rows: readonly SheetRow[]) => void;
}

const ROW_HEIGHT = 32;
/** Pixels in a wide window; other columns are narrower. */
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

/** Columns share the room, down to where a word of their cells can still be read. */
const widthOf = (pixels: number): string => `minmax(${Math.round(pixels * 0.6)}px, ${pixels}fr)`;

/** Cells can be typed or pasted from another sheet; Tab moves to the next cell, Enter to the cell below. */
export function Grid({ auditId, columns, rows, states, total, offers, onChange }: Props) {
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
  const focus = (at: number, column: SheetColumn) =>
    scroller.current?.querySelector<HTMLInputElement>(`[data-cell="${at} ${column}"]`)?.focus();
  const move = (from: number, to: number) => {
    const row = rows[from];
    if (row && to >= 0 && to < rows.length) onChange(rows.toSpliced(from, 1).toSpliced(to, 0, row));
  };
  const go = (event: KeyboardEvent<HTMLInputElement>, at: number, column: SheetColumn) => {
    if (event.nativeEvent.isComposing) return;
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (by !== undefined && event.altKey) {
      event.preventDefault();
      move(at, at + by);
      focus(at + by, column);
    } else if (event.key === 'Enter') {
      event.preventDefault();
      focus(at + (event.shiftKey ? -1 : 1), column);
    }
  };
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const drop = ({ active, over }: DragEndEvent) => {
    if (over) move(Number(active.id), Number(over.id));
  };
  const listOf: Partial<Record<SheetColumn, string>> = {
    folder: `${name}-folders`,
    sender: `${name}-senders`,
    exceptSender: `${name}-senders`,
    recipient: `${name}-own`,
    delivered: `${name}-own`,
    only: `${name}-own`,
    list: `${name}-lists`,
  };
  const template = `60px ${columns.map(({ id }) => widthOf(WIDTHS[id] ?? 120)).join(' ')} 34px minmax(200px, 280fr)`;
  // The context has elements of its own, which do not belong into a table.
  return (
    <DndContext sensors={sensors} onDragEnd={drop}>
      <div
        ref={scroller}
        className={classes.grid}
        role="table"
        aria-label="Rules as a sheet"
        aria-rowcount={rows.length}
      >
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
          <span role="columnheader">Catches</span>
        </div>
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map(({ index, start }) => (
            <GridRow key={index} index={index} style={{ top: start, gridTemplateColumns: template }}>
              {columns.map(({ id, title }, column) => {
                const mark = states[index]?.marks.find((one) => one.column === id);
                return (
                  <span key={id} role="cell">
                    <input
                      data-cell={`${index} ${id}`}
                      className={classes.cell}
                      aria-label={`${title}, row ${index + 1}`}
                      aria-invalid={mark ? true : undefined}
                      title={mark?.words}
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
              <span role="cell" className={classes.counts}>
                <RowCounts auditId={auditId} state={states[index]} total={total} />
              </span>
            </GridRow>
          ))}
        </div>
        <Offered id={`${name}-folders`} values={offers.folders} />
        <Offered id={`${name}-senders`} values={offers.senders.map((one) => (one.includes('@') ? one : `@${one}`))} />
        <Offered id={`${name}-own`} values={offers.own} />
        <Offered id={`${name}-lists`} values={offers.lists} />
      </div>
    </DndContext>
  );
}

/** A row with its number, at which it is dragged to another place. */
function GridRow({ index, style, children }: { index: number; style: CSSProperties; children: ReactNode }) {
  const drag = useDraggable({ id: String(index) });
  const drop = useDroppable({ id: String(index) });
  const ref = (node: HTMLDivElement | null) => {
    drag.setNodeRef(node);
    drop.setNodeRef(node);
  };
  const from = drag.active ? Number(drag.active.id) : index;
  return (
    <div
      ref={ref}
      role="row"
      aria-rowindex={index + 1}
      className={classes.row}
      style={style}
      data-drop={drop.isOver && from !== index ? (from < index ? 'below' : 'above') : undefined}
    >
      <span
        role="cell"
        ref={drag.setActivatorNodeRef}
        className={classes.grip}
        title="Drag the row to another place, or press Alt and an arrow key"
        {...drag.listeners}
      >
        <IconGripVertical size={14} aria-hidden="true" />
        {index + 1}
      </span>
      {children}
    </div>
  );
}

/** What the row would catch, or what is odd about it. */
function RowCounts({ auditId, state, total }: { auditId: string; state: RowState | undefined; total: number }) {
  if (!state) return null;
  const { marks, rule, counts } = state;
  return (
    <>
      {rule && counts && <CaughtWords auditId={auditId} rule={rule} counts={counts} total={total} />}
      {rule && marks[0] && <span className={classes.odd}> {marks[0].words}</span>}
    </>
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
