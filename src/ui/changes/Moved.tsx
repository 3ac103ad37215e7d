import Link from 'next/link';
import type { Comparison } from '../../server/changes/compare-flows';
import type { Matrix } from '../../server/changes/view';
import { formatDay, formatNumber } from '../common/format';
import classes from './Changes.module.css';

interface MatrixTableProps {
  readonly matrix: Matrix;
  readonly names: readonly [string, string];
  readonly hrefOf: (from: string, to: string) => string;
}

/** A table of destinations: a row for each one before, a column for each one after. */
export function MatrixTable({ matrix: { from, to, counts }, names, hrefOf }: MatrixTableProps) {
  const most = Math.max(1, ...counts.flat());
  return (
    <div className={classes.matrixFrame}>
      <table className={classes.matrix} aria-label="From and to">
        <thead>
          <tr>
            <th>
              {names[0]} ↓ {names[1]} →
            </th>
            {to.map((place) => (
              <th key={place} scope="col" title={place}>
                <span>{place}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {from.map((place, row) => (
            <tr key={place}>
              <th scope="row" title={place}>
                {place}
              </th>
              {to.map((other, column) => {
                const count = counts[row]?.[column] ?? 0;
                const same = place === other;
                return (
                  <td
                    key={other}
                    data-same={(same && count > 0) || undefined}
                    // CSS custom properties are missing in React's types.
                    style={{ '--part': `${Math.round((count / most) * 100)}%` } as React.CSSProperties}
                    title={same && count > 0 ? 'same destination, other flags or replies' : undefined}
                  >
                    {count > 0 && <Link href={hrefOf(place, other)}>{formatNumber(count)}</Link>}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface MovedProps {
  readonly auditId: string;
  readonly comparison: Comparison;
  readonly names: readonly [string, string];
  /** The address of the list of all of them, and of one pair. */
  readonly all: string;
  readonly hrefOf: (was: string, becomes: string) => string;
}

const SHOWN_MOVES = 40;

/** The pairs of destinations with flags, and the messages themselves. */
export function Moved({ auditId, comparison, names, all, hrefOf }: MovedProps) {
  const { moves, rows, changed } = comparison;
  return (
    <>
      <details className={classes.details}>
        <summary>Each pair of destinations, with flags: {formatNumber(moves.length)}</summary>
        <table className={classes.moves}>
          <thead>
            <tr>
              <th>Messages</th>
              <th>{names[0]}</th>
              <th>{names[1]}</th>
            </tr>
          </thead>
          <tbody>
            {moves.slice(0, SHOWN_MOVES).map(({ from, to, count }) => (
              <tr key={`${from} > ${to}`}>
                <td>
                  <Link href={hrefOf(from, to)}>{formatNumber(count)}</Link>
                </td>
                <td>{from}</td>
                <td>{to}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {moves.length > SHOWN_MOVES && <p>and {formatNumber(moves.length - SHOWN_MOVES)} more pairs</p>}
      </details>
      <h2 className={classes.heading}>
        Each message
        {rows.length < changed && (
          <>
            , the newest {formatNumber(rows.length)} of <Link href={all}>{formatNumber(changed)}</Link>
          </>
        )}
      </h2>
      <table className={classes.moves}>
        <tbody>
          {rows.map((row) => (
            <tr key={row.number}>
              <td>{formatDay(row.date)}</td>
              <td>
                <Link href={`/audits/${auditId}/mail/${row.number}`} dir="auto">
                  {row.subject || '(no subject)'}
                </Link>
                <span className={classes.from}> {row.from}</span>
              </td>
              <td>
                {row.before} → <strong>{row.after}</strong>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
