import Link from 'next/link';
import { formatNumber, formatPart } from '../common/format';
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

/** Counts as bars, each leading to its messages. */
export function Bars({ title, whole, rows }: BarsProps) {
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
