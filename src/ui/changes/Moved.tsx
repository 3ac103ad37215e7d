import Link from 'next/link';
import type { Comparison } from '../../server/changes/compare-flows';
import { formatDay, formatNumber } from '../common/format';
import classes from './Changes.module.css';

interface Props {
  readonly auditId: string;
  readonly comparison: Comparison;
  readonly names: readonly [string, string];
  /** Where all of them are listed, and those of one way. */
  readonly all: string;
  readonly hrefOf: (was: string, becomes: string) => string;
}

const SHOWN_MOVES = 40;

/** The ways in which messages move, flags included, and the messages themselves. */
export function Moved({ auditId, comparison, names, all, hrefOf }: Props) {
  const { moves, rows, changed } = comparison;
  return (
    <>
      <details className={classes.details}>
        <summary>Each way, with flags: {formatNumber(moves.length)}</summary>
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
        {moves.length > SHOWN_MOVES && <p>and {formatNumber(moves.length - SHOWN_MOVES)} more ways</p>}
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
