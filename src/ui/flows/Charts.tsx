'use client';

import Link from 'next/link';
import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { MonthsView, StreamsView } from '../../server/chain/flows-view';
import { originsAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { Bars } from '../common/Bars';
import { formatPart, messagesWord } from '../common/format';
import { TICK, TOOLTIP } from '../common/tints';
import classes from './Flows.module.css';

interface MonthsProps {
  readonly view: MonthsView;
  /** What one should see, as the beginning of a sentence. */
  readonly label: string;
  readonly height?: number;
  /** The list of these messages, up to a day or from a day on. */
  readonly hrefOf: (part: { readonly since: string } | { readonly until: string }) => string;
}

/** Messages by month, as bars, over the time in which nearly all mail arrived; what lies outside is told. */
export function Months({ view, label, height = 96, hrefOf }: MonthsProps) {
  const { months, before, after } = view;
  const [first, last] = [months[0]?.month, months.at(-1)?.month];
  if (first === undefined || last === undefined) return null;
  return (
    <figure className={classes.months} aria-label={label}>
      <ResponsiveContainer width="100%" height={height}>
        <BarChart data={[...months]} margin={{ top: 4, right: 4, bottom: 0, left: 0 }} barCategoryGap={0}>
          <XAxis dataKey="month" tick={TICK} tickLine={false} minTickGap={28} stroke="var(--hairline-strong)" />
          <YAxis width={34} tick={TICK} tickLine={false} axisLine={false} allowDecimals={false} tickCount={3} />
          <Tooltip
            cursor={{ fill: 'var(--accent-wash)' }}
            contentStyle={TOOLTIP}
            separator=" "
            formatter={(value) => [String(value), 'messages']}
          />
          <Bar dataKey="count" fill="var(--stream-chosen)" isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
      {(before > 0 || after > 0) && (
        <figcaption className={classes.outside}>
          Not drawn:{' '}
          {before > 0 && <Link href={hrefOf({ until: dayBefore(first) })}>{messagesWord(before)} from earlier</Link>}
          {before > 0 && after > 0 && ', '}
          {after > 0 && <Link href={hrefOf({ since: firstAfter(last) })}>{messagesWord(after)} from later</Link>}.
        </figcaption>
      )}
    </figure>
  );
}

const dayOf = (time: number): string => new Date(time).toISOString().slice(0, 10);

/** The day before a month such as `2026-04`. */
const dayBefore = (month: string): string => dayOf(Date.parse(`${month}-01T00:00:00Z`) - 1);

/** The first day after a month. */
function firstAfter(month: string): string {
  const [year = 0, number = 0] = month.split('-').map(Number);
  return dayOf(Date.UTC(year, number));
}

interface OriginsProps {
  readonly auditId: string;
  readonly view: StreamsView;
  readonly destination: string;
  readonly label: string;
}

/** The origins of the mail of one destination: by rule, by domain, by month. */
export function Origins({ auditId, view, destination, label }: OriginsProps) {
  const path = `/api/audits/${auditId}/origins?destination=${encodeURIComponent(destination)}`;
  const { answer: origins } = useAnswer(originsAnswer, path, view);
  const links = view.links.filter((link) => link.destination === destination);
  const count = view.destinations.find(({ key }) => key === destination)?.count ?? 0;
  const fate = `fate=${encodeURIComponent(destination)}`;
  return (
    <section aria-label={`Where the mail of ${label} comes from`}>
      <h2 className={classes.heading}>
        <bdi>{label}</bdi>: {formatPart(count, view.total)} messages
      </h2>
      <div className={classes.overTime}>
        {origins && (
          <Months
            view={origins.months}
            label={`Messages a month with destination ${label}`}
            hrefOf={(part) => `/audits/${auditId}/mail?${fate}&${new URLSearchParams(part)}`}
          />
        )}
      </div>
      <div className={classes.lists}>
        <div>
          <h3 className={classes.subheading}>by rule</h3>
          <Bars
            whole={count}
            rows={links.map((link) => ({
              key: link.rule ?? link.name,
              label: link.name,
              count: link.count,
              words: formatPart(link.count, count),
              href: `/audits/${auditId}/mail?${fate}${link.rule === null ? '&untouched=1' : `&rule=${link.rule}&part=fired`}`,
            }))}
          />
        </div>
        <div>
          <h3 className={classes.subheading}>by domain of From</h3>
          <Bars
            whole={count}
            rows={(origins?.domains ?? []).map(({ domain, count: from }) => ({
              key: domain,
              label: domain || '(no address)',
              count: from,
              words: formatPart(from, count),
              href: `/audits/${auditId}/mail?${fate}&from=${encodeURIComponent(domain)}`,
            }))}
          />
        </div>
      </div>
    </section>
  );
}
