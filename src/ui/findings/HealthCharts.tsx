import { keysOf } from '../../core/text/lookup';
import type { HealthView } from '../../server/findings/health-view';
import { Bars } from '../common/Bars';
import { formatNumber, formatPart } from '../common/format';
import { fillOf } from '../common/tints';
import classes from './Findings.module.css';
import { CERTAINTY_NAMES, CONSEQUENCE_WORDS } from './finding-words';

/** From most to least certain, distinguished by darkness. */
const SHADES = { proved: 1, shown: 0.7, observed: 0.42, undecided: 0.2 } as const;

interface Props {
  readonly auditId: string;
  readonly view: HealthView;
}

/** Four charts: destinations, findings by consequence, rules per message, when rules last acted. Each title says what to see. */
export function HealthCharts({ auditId, view }: Props) {
  const { coverage, total, rules, lastFired } = view;
  const places = [...view.destinations].sort((a, b) => b.count - a.count);
  const findings = [...view.findings].sort((a, b) => b.all - a.all);
  const [place] = places;
  const [consequence] = findings;
  const recent = lastFired.find(({ key }) => key === 'month')?.rules.length ?? 0;
  const all = findings.reduce((sum, row) => sum + row.all, 0);
  return (
    <div className={classes.charts}>
      <Chart
        title={
          place
            ? `${formatPart(place.count, total)} messages end in ${place.kind === 'inbox' ? 'the inbox' : `“${place.label}”`}`
            : 'No message has a destination'
        }
      >
        <Bars
          whole={place?.count ?? 0}
          more={`/audits/${auditId}/flows`}
          rows={places.map((one) => ({
            key: one.key,
            label: one.label,
            count: one.count,
            href: `/audits/${auditId}/mail?fate=${encodeURIComponent(one.key)}`,
            parts: [{ key: one.key, count: one.count, fill: fillOf(one), title: one.label }],
          }))}
        />
      </Chart>
      <Chart
        title={
          consequence && all > 0
            ? `${formatPart(consequence.all, all)} confirmed findings: ${CONSEQUENCE_WORDS[consequence.consequence]}`
            : 'There are no confirmed findings'
        }
        legend={<Shades />}
      >
        <Bars
          whole={consequence?.all ?? 0}
          rows={findings.map((row) => ({
            key: row.consequence,
            label: CONSEQUENCE_WORDS[row.consequence],
            count: row.all,
            href: `/audits/${auditId}/findings?consequence=${row.consequence}`,
            parts: keysOf(CERTAINTY_NAMES).map((name) => ({
              key: name,
              count: row[name],
              fill: shadeOf(name),
              title: `${formatNumber(row[name])} ${CERTAINTY_NAMES[name]}`,
            })),
          }))}
        />
      </Chart>
      <Chart title={`${formatPart(coverage.untouched, total)} messages are acted on by no rule`}>
        <Bars
          whole={Math.max(coverage.untouched, coverage.once, coverage.often)}
          rows={[
            {
              key: 'none',
              label: 'by no rule',
              count: coverage.untouched,
              href: `/audits/${auditId}/mail?untouched=1`,
            },
            { key: 'once', label: 'by one rule', count: coverage.once, href: `/audits/${auditId}/mail?passing=once` },
            { key: 'often', label: 'by several', count: coverage.often, href: `/audits/${auditId}/mail?passing=often` },
          ]}
        />
      </Chart>
      <Chart title={`${formatPart(recent, rules)} rules acted in the last 30 days of the mail`}>
        <Bars
          whole={Math.max(...lastFired.map((age) => age.rules.length))}
          rows={lastFired.map((age) => ({
            key: age.key,
            label: age.label,
            count: age.rules.length,
            href: age.rules.length > 0 ? `#acted-${age.key}` : null,
          }))}
        />
      </Chart>
    </div>
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
      {children}
    </figure>
  );
}
