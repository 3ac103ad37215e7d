'use client';

import { VisuallyHidden } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { type ReactNode, useEffect, useRef } from 'react';
import type { Destination } from '../../server/chain/destinations';
import type { MessageRow } from '../../server/mail/list-view';
import { Fate } from '../common/Fate';
import { formatDay } from '../common/format';
import { Choice, Days, type Filters, RuleChoice, Words } from './filters';
import classes from './Mail.module.css';
import type { Messages } from './useMessages';

const ROW_HEIGHT = 30;

interface Props {
  readonly auditId: string;
  readonly messages: Messages;
  readonly destinations: readonly Destination[];
  readonly filters: Filters;
  readonly selected: ReadonlySet<number>;
  readonly onMark: (number: number) => void;
}

/** The messages as a virtual table; rows are fetched as they come into view. */
export function EvidenceTable({ auditId, messages, destinations, filters, selected, onMark }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: messages.found ?? 0,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 20,
  });
  const items = rows.getVirtualItems();
  const [first, last] = [items[0]?.index, items[items.length - 1]?.index];
  const { want } = messages;
  useEffect(() => {
    if (first !== undefined && last !== undefined) want(first, last);
  }, [first, last, want]);
  return (
    <div className={classes.table} role="table" aria-label="Stored messages" aria-rowcount={messages.found ?? 0}>
      <div className={classes.headRow} role="row">
        <div role="columnheader">
          <VisuallyHidden>Selected</VisuallyHidden>
        </div>
        <Head name="Date">
          <Days {...filters} />
        </Head>
        <Head name="From">
          <Words name="from" words="name or address" {...filters} />
        </Head>
        <Head name="Subject">
          <Words name="subject" words="words in the subject" {...filters} />
        </Head>
        <Head name="In folder">
          <Choice
            name="folder"
            words="folder"
            data={filters.offers.folders.map((folder) => ({ value: folder, label: folder }))}
            {...filters}
          />
        </Head>
        <Head name="Destination">
          <Choice
            name="fate"
            words="destination"
            disabled={!filters.simulated}
            data={destinations.map(({ key, label }) => ({ value: key, label }))}
            {...filters}
          />
        </Head>
        <Head name="Rules that act">
          <RuleChoice {...filters} />
        </Head>
      </div>
      <div ref={scroller} className={classes.body} tabIndex={0} role="rowgroup">
        {messages.found === 0 && <p className={classes.nothing}>No message matches all filters.</p>}
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {items.map(({ index, start }) => (
            <Row
              key={index}
              auditId={auditId}
              row={messages.rowAt(index)}
              index={index}
              top={start}
              destinations={destinations}
              selected={selected}
              onMark={onMark}
            />
          ))}
        </div>
      </div>
    </div>
  );
}

/** A column heading with its filter. */
function Head({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div role="columnheader" className={classes.head}>
      <span>{name}</span>
      {children}
    </div>
  );
}

interface RowProps {
  readonly auditId: string;
  readonly row: MessageRow | null;
  readonly index: number;
  readonly top: number;
  readonly destinations: readonly Destination[];
  readonly selected: ReadonlySet<number>;
  readonly onMark: (number: number) => void;
}

function Row({ auditId, row, index, top, destinations, selected, onMark }: RowProps) {
  return (
    <div role="row" className={classes.row} style={{ top }} aria-rowindex={index + 1}>
      {row && (
        <>
          <span role="cell">
            <input
              type="checkbox"
              aria-label={`Select “${row.subject || '(no subject)'}”`}
              className={classes.mark}
              checked={selected.has(row.number)}
              onChange={() => onMark(row.number)}
            />
          </span>
          <Cell>{formatDay(row.date)}</Cell>
          <Cell title={row.fromAddress}>{row.from || row.fromAddress || '—'}</Cell>
          <Cell>
            <Link href={`/audits/${auditId}/mail/${row.number}`} className={classes.subject} dir="auto">
              {row.subject || '(no subject)'}
            </Link>
          </Cell>
          <Cell>{row.folder}</Cell>
          <Cell>
            {row.fate ? <Fate fate={row.fate} destinations={destinations} /> : row.sent ? 'sent by you' : '…'}
          </Cell>
          <Cell title={row.fired.join(', ')}>{row.fired.length === 0 ? 'none' : row.fired.join(', ')}</Cell>
        </>
      )}
    </div>
  );
}

function Cell({ children, title }: { children: ReactNode; title?: string }) {
  return (
    <span role="cell" className={classes.cell} title={title}>
      {children}
    </span>
  );
}
