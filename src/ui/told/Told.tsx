'use client';

import { Button, FileButton } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useEffect, useMemo, useRef, useState } from 'react';
import { readTold, type ToldRule } from '../../core/rules/told/read';
import { decodeText } from '../../files/csv';
import type { SheetView } from '../../server/chain/sheet-view';
import { tell } from '../common/api';
import { formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import { useKeptText } from '../common/useKeptText';
import { AddRules } from '../typed/AddRules';
import { useTypedCounts } from '../typed/useTypedCounts';
import { Line } from './Line';
import classes from './Told.module.css';

const EXAMPLE =
  'from newsletter@journal.example, @offers.example or *.shop.example with “weekly” in the subject, but not sent only to me, into Reading, and mark as read';

/** Rules told in sentences, one a line: each is read back at once, with what it would catch. */
export function Told({ auditId, view }: { auditId: string; view: SheetView }) {
  const [text, keep, letGo] = useKeptText(`sentences ${auditId}`, '');
  const lines = useMemo(() => text.split('\n'), [text]);
  const { readings, left } = useReadings(lines, view);
  const told = useStable(readings.filter((reading) => reading !== null));
  const rules = useMemo(() => told.map(({ rule }, at) => ({ ...rule, id: `told-${at}` })), [told]);
  const counts = useTypedCounts(auditId, rules);
  const [focus, setFocus] = useState<number | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 60,
    overscan: 8,
  });
  useEffect(() => {
    if (focus === null) return;
    virtual.scrollToIndex(focus);
    const field = scroller.current?.querySelector<HTMLInputElement>(`[data-line="${focus}"] input`);
    if (!field) return;
    field.focus();
    setFocus(null);
  });
  const put = (next: readonly string[], at?: number) => {
    keep(next.join('\n'));
    if (at !== undefined) setFocus(Math.max(0, Math.min(at, next.length - 1)));
  };
  const splice = (at: number, removed: number, added: readonly string[]) => lines.toSpliced(at, removed, ...added);
  const unread = readings.filter((reading) => reading && reading.unread.length > 0).length;
  const faulty = readings.filter((reading) => reading?.remarks.some(({ isFault }) => isFault)).length;
  // Counts are in the order of the rules, without empty lines.
  const ranks = ranksOf(readings);
  const open = async (file: File | null) => {
    if (!file) return;
    try {
      put([
        ...lines.filter((line) => line.trim() !== ''),
        ...decodeText(new Uint8Array(await file.arrayBuffer()))
          .trimEnd()
          .split(/\r\n|\r|\n/),
      ]);
    } catch {
      tell(`${file.name} could not be read.`);
    }
  };
  return (
    <div className={classes.page}>
      <header className={classes.head}>
        <h1 className={classes.title}>
          {formatNumber(told.length)} {told.length === 1 ? 'rule' : 'rules'} in sentences
        </h1>
        <FileButton onChange={open} accept=".txt,.csv,.tsv,text/plain">
          {({ onClick }) => (
            <Button size="compact-sm" variant="default" onClick={onClick}>
              Open a text file
            </Button>
          )}
        </FileButton>
        <Link href={`/audits/${auditId}/sheet`}>as a sheet instead</Link>
      </header>
      <p className={classes.hint}>
        Write one rule a line, in your own words, or paste a list. A name before a colon becomes the name of the rule.
        For example: <q>{EXAMPLE}</q>
      </p>
      <div ref={scroller} className={classes.lines}>
        <ol style={{ height: virtual.getTotalSize() }} aria-label="Rules in sentences">
          {virtual.getVirtualItems().map(({ index, start, key }) => (
            <li
              key={key}
              ref={virtual.measureElement}
              data-index={index}
              data-line={index}
              style={{ transform: `translateY(${start}px)` }}
            >
              <Line
                auditId={auditId}
                number={index + 1}
                text={lines[index] ?? ''}
                reading={readings[index] ?? null}
                counts={counts.rows?.[ranks[index] ?? -1] ?? null}
                total={counts.total}
                isCurrent={counts.isCurrent}
                offers={view.offers}
                onChange={(line) => put(splice(index, 1, [line]))}
                onNext={() => put(splice(index + 1, 0, ['']), index + 1)}
                onPaste={(more) => put(splice(index, 1, more), index + more.length - 1)}
                onRemove={() => put(lines.length > 1 ? splice(index, 1, []) : [''], index - 1)}
                onGo={(by) => setFocus(Math.max(0, Math.min(index + by, lines.length - 1)))}
                onMove={(by) => {
                  const to = index + by;
                  if (to >= 0 && to < lines.length) put(splice(index, 1, []).toSpliced(to, 0, lines[index] ?? ''), to);
                }}
              />
            </li>
          ))}
        </ol>
      </div>
      <footer className={classes.foot}>
        {unread > 0 && (
          <p className={classes.warning}>
            {unread === 1
              ? 'One rule has words that are not understood: it is added off, with its line as its note.'
              : `${formatNumber(unread)} of ${formatNumber(rules.length)} rules have words that are not understood: they are added off, each with its line as its note.`}
          </p>
        )}
        {counts.isTooMany && <p className={classes.soft}>So many rules are counted after you add them.</p>}
        <AddRules
          auditId={auditId}
          entries={view.entries}
          rules={rules}
          obstacle={
            left > 0
              ? `Reading the lines: ${formatNumber(left)} left.`
              : faulty > 0
                ? `Correct the ${faulty === 1 ? 'rule' : `${formatNumber(faulty)} rules`} with a remark first.`
                : null
          }
          why="Told in sentences."
          onAdded={letGo}
        >
          {text !== '' && <TextButton onClick={() => put([''])}>clear all lines</TextButton>}
        </AddRules>
      </footer>
    </div>
  );
}

/** Milliseconds of reading before the page is drawn again. */
const SLICE = 40;

/** Reads lines, each text once; thousands of them in slices, so that the page stays usable meanwhile. */
function useReadings(lines: readonly string[], { offers }: SheetView) {
  const { own, folders } = offers;
  const known = useMemo(
    () => ({ of: { me: own, folders }, readings: new Map<string, ToldRule | null>() }),
    [own, folders],
  );
  const [, drawAgain] = useState(0);
  const until = performance.now() + SLICE;
  let left = 0;
  const readings = lines.map((line): ToldRule | null => {
    const before = known.readings.get(line);
    if (before !== undefined) return before;
    if (performance.now() > until) {
      left++;
      return null;
    }
    const reading = readTold(line, 'told', known.of);
    known.readings.set(line, reading);
    return reading;
  });
  useEffect(() => {
    if (left === 0) return;
    const clock = setTimeout(() => drawAgain((count) => count + 1));
    return () => clearTimeout(clock);
  });
  return { readings, left };
}

/** The same array while its members are the same. */
function useStable<Member>(members: readonly Member[]): readonly Member[] {
  const last = useRef(members);
  const isSame = members.length === last.current.length && members.every((one, at) => one === last.current[at]);
  if (!isSame) last.current = members;
  return last.current;
}

function ranksOf(readings: readonly (ToldRule | null)[]): number[] {
  let next = 0;
  return readings.map((reading) => (reading ? next++ : -1));
}
