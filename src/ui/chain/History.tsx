'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import type { HistoryView } from '../../server/chain/flows-view';
import { call } from '../common/api';
import { formatDay } from '../common/format';
import classes from './RuleAtHand.module.css';

// The chart measures itself, which only a browser can.
const Months = dynamic(() => import('../flows/Months').then(({ Months: drawn }) => drawn), { ssr: false });

/** When a rule has acted: month by month, and for the last time. */
export function History({ auditId, rule, chain }: { auditId: string; rule: string; chain: unknown }) {
  const [history, setHistory] = useState<HistoryView | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another chain has another history
  useEffect(() => {
    let current = true;
    call(`/api/audits/${auditId}/history?rule=${encodeURIComponent(rule)}`, 'GET')
      .then((answer) => current && setHistory(answer as HistoryView))
      .catch(() => current && setHistory(null));
    return () => {
      current = false;
    };
  }, [auditId, rule, chain]);
  if (!history) return <div className={classes.history} />;
  if (history.fired === 0) return <p className={classes.note}>It has never acted on the stored mail.</p>;
  return (
    <div className={classes.history}>
      <Months months={history.months} label="Messages a month that it acts on" height={74} />
      {history.last && (
        <p className={classes.note}>
          It acted last on{' '}
          <Link href={`/audits/${auditId}/mail/${history.last.number}`}>{formatDay(history.last.date)}</Link>.
        </p>
      )}
    </div>
  );
}
