import Link from 'next/link';
import classes from './Bars.module.css';
import { formatNumber } from './format';

/** One bar: a name, how many, and the page that lists them. */
export interface BarRow {
  readonly key: string;
  readonly label: string;
  readonly count: number;
  /** What stands at the end of the bar, if not the count alone. */
  readonly words?: string;
  /** Null for what has no page. */
  readonly href: string | null;
  /** The parts of the bar; one of the usual colour if absent. */
  readonly parts?: readonly {
    readonly key: string;
    readonly count: number;
    readonly fill: string;
    readonly title: string;
  }[];
}

interface Props {
  readonly rows: readonly BarRow[];
  /** What a bar of full length stands for. */
  readonly whole: number;
  /** The page that lists all, if there are more than are shown. */
  readonly more?: string;
}

const SHOWN = 12;

/** Counts as bars of one thickness, in the order given, each with its number at the end, which leads to what it counts. */
export function Bars({ rows, whole, more }: Props) {
  return (
    <ul className={classes.bars}>
      {rows.slice(0, SHOWN).map(({ key, label, count, words = formatNumber(count), href, parts }) => (
        <li key={key}>
          <span className={classes.label} title={label}>
            <bdi>{label}</bdi>
          </span>
          <span className={classes.bar} aria-hidden="true">
            {(parts ?? [{ key, count, fill: 'var(--stream-chosen)', title: label }]).map(
              (part) =>
                part.count > 0 && (
                  <svg
                    key={part.key}
                    className={classes.part}
                    style={{ width: `${(100 * part.count) / Math.max(1, whole)}%` }}
                  >
                    <title>{part.title}</title>
                    <rect width="100%" height="100%" fill={part.fill} />
                  </svg>
                ),
            )}
          </span>
          {href === null ? (
            <span className={classes.count}>{words}</span>
          ) : (
            <Link href={href} className={classes.count}>
              {words}
            </Link>
          )}
        </li>
      ))}
      {rows.length > SHOWN && (
        <li>
          {more === undefined ? (
            `and ${formatNumber(rows.length - SHOWN)} more`
          ) : (
            <Link href={more}>and {formatNumber(rows.length - SHOWN)} more</Link>
          )}
        </li>
      )}
    </ul>
  );
}
