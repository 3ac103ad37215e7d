'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { historyAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { formatDay } from '../common/format';
import classes from './RuleAtHand.module.css';

// Loaded in the browser only: the chart measures itself.
const Months = dynamic(() => import('../flows/Charts').then(({ Months: drawn }) => drawn), { ssr: false });

/** When a rule has acted: month by month, and for the last time. */
export function History({ auditId, rule, chain }: { auditId: string; rule: string; chain: object }) {
  const path = `/api/audits/${auditId}/history?rule=${encodeURIComponent(rule)}`;
  const { answer: history } = useAnswer(historyAnswer, path, chain);
  if (!history) return <div className={classes.history} />;
  if (history.fired === 0) return <p className={classes.note}>This rule has never acted on stored mail.</p>;
  return (
    <div className={classes.history}>
      <Months
        view={history.months}
        label="Messages a month that this rule acts on"
        height={74}
        hrefOf={(part) => `/audits/${auditId}/mail?rule=${rule}&part=fired&${new URLSearchParams(part)}`}
      />
      {history.last && (
        <p className={classes.note}>
          It last acted on{' '}
          <Link href={`/audits/${auditId}/mail/${history.last.number}`}>{formatDay(history.last.date)}</Link>.
        </p>
      )}
    </div>
  );
}
