'use client';

import Link from 'next/link';
import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Month, StreamsView } from '../../server/chain/flows-view';
import { originsAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { formatNumber, formatPart } from '../common/format';
import { TICK, TOOLTIP } from '../common/tints';
import classes from './Flows.module.css';

interface BarsProps {
  readonly title: string;
  readonly whole: number;
  readonly rows: readonly {
    readonly key: string;
    readonly label: string;
    readonly count: number;
    readonly href: string;
  }[];
}

const SHOWN = 12;

/** Counts as bars, each a link to its messages. */
function Bars({ title, whole, rows }: BarsProps) {
  return (
    <div>
      <h3 className={classes.subheading}>{title}</h3>
      <ul className={classes.bars}>
        {rows.slice(0, SHOWN).map(({ key, label, count, href }) => (
          <li key={key}>
            <span className={classes.label} dir="auto" title={label}>
              {label}
            </span>
            <svg className={classes.bar} viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
              <title>{label}</title>
              <rect width={(100 * count) / Math.max(1, whole)} height="10" fill="var(--stream)" />
            </svg>
            <Link href={href}>{formatPart(count, whole)}</Link>
          </li>
        ))}
        {rows.length > SHOWN && <li>and {formatNumber(rows.length - SHOWN)} more</li>}
      </ul>
    </div>
  );
}

/** Messages by month, as bars. */
export function Months({ months, label, height = 96 }: { months: readonly Month[]; label: string; height?: number }) {
  if (months.length === 0) return null;
  return (
    <figure className={classes.months} role="img" aria-label={label}>
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
    </figure>
  );
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
        {label}: {formatPart(count, view.total)} messages
      </h2>
      <div className={classes.overTime}>
        {origins && <Months months={origins.months} label={`Messages a month with destination ${label}`} />}
      </div>
      <div className={classes.lists}>
        <Bars
          title="by rule"
          whole={count}
          rows={links.map((link) => ({
            key: link.rule ?? link.name,
            label: link.name,
            count: link.count,
            href: `/audits/${auditId}/mail?${fate}${link.rule === null ? '&untouched=1' : `&rule=${link.rule}&part=fired`}`,
          }))}
        />
        <Bars
          title="by domain of From"
          whole={count}
          rows={(origins?.domains ?? []).map(({ domain, count: from }) => ({
            key: domain,
            label: domain || '(no address)',
            count: from,
            href: `/audits/${auditId}/mail?${fate}&from=${encodeURIComponent(domain)}`,
          }))}
        />
      </div>
    </section>
  );
}
