'use client';

import { TextInput } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useMemo, useRef, useState } from 'react';
import type { PeopleView } from '../../server/mail/people-view';
import { formatDay, formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { NoMail, Notice } from '../common/Notice';
import classes from './People.module.css';

const ROW_HEIGHT = 30;

/** Whom mail came from and went to, those the user has written to first. */
export function People({ auditId, view }: { auditId: string; view: PeopleView }) {
  const [words, setWords] = useState('');
  const scroller = useRef<HTMLDivElement>(null);
  const people = view.people ?? [];
  const shown = useMemo(() => {
    const sought = words.trim().toLowerCase();
    return people.filter(({ address, name }) => `${name} ${address}`.toLowerCase().includes(sought));
  }, [people, words]);
  const rows = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 20,
  });
  if (view.stored === 0) {
    return (
      <NoMail auditId={auditId} title="No correspondents yet">
        Here stand the people you write with, found from the mail you have sent and received.
      </NoMail>
    );
  }
  if (!view.people) return <Notice title="No correspondents yet">Correspondents appear once mail is simulated.</Notice>;
  const written = people.filter((person) => person.written > 0).length;
  return (
    <div className={classes.page}>
      <div className={classes.head}>
        <Head
          action={
            <div className={classes.tools}>
              <TextInput
                size="xs"
                aria-label="Filter"
                placeholder="name or address"
                value={words}
                onChange={(event) => setWords(event.currentTarget.value)}
              />
              <Onward href={`/audits/${auditId}/expectations`}>See expectations for their mail</Onward>
            </div>
          }
        >
          You have written to {formatPart(written, people.length)} correspondents
        </Head>
      </div>
      <div className={classes.row} data-head>
        <span>Name</span>
        <span>Address</span>
        <span className={classes.number}>You wrote</span>
        <span className={classes.number}>They wrote</span>
        <span>Last</span>
      </div>
      <div ref={scroller} className={classes.scroller} tabIndex={0} role="group" aria-label="Correspondents">
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const person = shown[index];
            if (!person) return null;
            return (
              <div
                key={person.address}
                className={classes.row}
                style={{ position: 'absolute', top: start, left: 0, right: 0 }}
              >
                <span dir="auto">{person.name}</span>
                <Link className="mono" href={`/audits/${auditId}/mail?person=${encodeURIComponent(person.address)}`}>
                  {person.address}
                </Link>
                <span className={classes.number}>{formatNumber(person.written)}</span>
                <span className={classes.number}>{formatNumber(person.received)}</span>
                <span>{formatDay(person.latest)}</span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
