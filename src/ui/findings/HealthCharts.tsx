'use client';

import { Bar, BarChart, Cell, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { keysOf } from '../../core/text/lookup';
import type { HealthView } from '../../server/findings/health-view';
import { formatNumber } from '../common/format';
import { fillOf, TICK, TOOLTIP } from '../common/tints';
import classes from './Findings.module.css';
import { CERTAINTY_NAMES, CONSEQUENCE_WORDS } from './finding-words';

/** From most to least certain, distinguished by darkness. */
const SHADES = { proved: 1, shown: 0.7, observed: 0.42, undecided: 0.2 } as const;
const MOST_PLACES = 12;

/** Four charts: destinations, findings by consequence, rules per message, when rules last acted. */
export default function HealthCharts({ view }: { view: HealthView }) {
  const places = [...view.destinations].sort((a, b) => b.count - a.count).slice(0, MOST_PLACES);
  const findings = view.findings.map((row) => ({ ...row, name: CONSEQUENCE_WORDS[row.consequence] }));
  const { untouched, once, often } = view.coverage;
  const coverage = [
    { name: 'no rule', count: untouched },
    { name: 'one rule', count: once },
    { name: 'several', count: often },
  ];
  const ages = view.lastFired.map(({ label, rules }) => ({ name: label, count: rules.length }));
  return (
    <div className={classes.charts}>
      <Chart title="Destinations, in messages">
        <BarChart data={places} layout="vertical" margin={MARGIN} barCategoryGap={2}>
          <XAxis {...AMOUNTS} />
          <YAxis {...NAMES} dataKey="label" />
          <Tooltip
            cursor={CURSOR}
            contentStyle={TOOLTIP}
            formatter={(value) => [formatNumber(Number(value)), 'messages']}
          />
          <Bar dataKey="count" isAnimationActive={false}>
            {places.map((place) => (
              <Cell key={place.key} fill={fillOf(place)} />
            ))}
          </Bar>
        </BarChart>
      </Chart>
      <Chart title="Findings by consequence" legend={<Shades />}>
        <BarChart data={findings} layout="vertical" margin={MARGIN} barCategoryGap={4}>
          <XAxis {...AMOUNTS} />
          <YAxis {...NAMES} dataKey="name" />
          <Tooltip cursor={CURSOR} contentStyle={TOOLTIP} />
          {keysOf(CERTAINTY_NAMES).map((name) => (
            <Bar key={name} dataKey={name} stackId="all" fill={shadeOf(name)} isAnimationActive={false} />
          ))}
        </BarChart>
      </Chart>
      <Counts title="Messages by how many rules act on them" data={coverage} unit="messages" />
      <Counts title="Rules by when they last acted" data={ages} unit="rules" />
    </div>
  );
}

const MARGIN = { top: 4, right: 12, bottom: 0, left: 0 };
/** Names on one axis, amounts on the other. */
const NAMES = { type: 'category', width: 132, tick: TICK, tickLine: false, axisLine: false, interval: 0 } as const;
const AMOUNTS = {
  type: 'number',
  tick: TICK,
  tickLine: false,
  stroke: 'var(--hairline-strong)',
  allowDecimals: false,
} as const;
const CURSOR = { fill: 'var(--accent-wash)' };

function Counts({
  title,
  data,
  unit,
}: {
  title: string;
  data: readonly { name: string; count: number }[];
  unit: string;
}) {
  return (
    <Chart title={title}>
      <BarChart data={[...data]} layout="vertical" margin={MARGIN} barCategoryGap={4}>
        <XAxis {...AMOUNTS} />
        <YAxis {...NAMES} dataKey="name" />
        <Tooltip cursor={CURSOR} contentStyle={TOOLTIP} formatter={(value) => [formatNumber(Number(value)), unit]} />
        <Bar dataKey="count" fill="var(--stream-chosen)" isAnimationActive={false} />
      </BarChart>
    </Chart>
  );
}

const shadeOf = (name: keyof typeof SHADES): string =>
  `color-mix(in srgb, var(--stream-chosen) ${SHADES[name] * 100}%, var(--mantine-color-body))`;

/** The legend of the shades. */
function Shades() {
  return (
    <span className={classes.shades}>
      {keysOf(SHADES).map((name) => (
        <span key={name}>
          <span className={classes.shade} style={{ background: shadeOf(name) }} /> {CERTAINTY_NAMES[name]}
        </span>
      ))}
    </span>
  );
}

interface ChartProps {
  readonly title: string;
  readonly legend?: React.ReactElement;
  readonly children: React.ReactElement;
}

function Chart({ title, legend, children }: ChartProps) {
  return (
    <figure className={classes.chart} aria-label={title}>
      <figcaption>
        {title} {legend}
      </figcaption>
      <ResponsiveContainer width="100%" height={196}>
        {children}
      </ResponsiveContainer>
    </figure>
  );
}
