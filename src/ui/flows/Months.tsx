'use client';

import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Month } from '../../server/chain/flows-view';
import { TICK, TOOLTIP } from '../common/charts';
import classes from './Flows.module.css';

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
