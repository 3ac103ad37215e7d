import Link from 'next/link';
import type { Matrix } from '../../server/changes/view';
import { formatNumber } from '../common/format';
import classes from './Changes.module.css';

interface Props {
  readonly matrix: Matrix;
  readonly names: readonly [string, string];
  readonly hrefOf: (from: string, to: string) => string;
}

/** From which place to which: one row for each place before, one column for each place after. */
export function MatrixTable({ matrix: { from, to, counts }, names, hrefOf }: Props) {
  const most = Math.max(1, ...counts.flat());
  return (
    <div className={classes.matrixFrame}>
      <table className={classes.matrix} aria-label="From where to where">
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
                    // Custom properties are none of the declared ones.
                    style={{ '--part': `${Math.round((count / most) * 100)}%` } as React.CSSProperties}
                    title={same && count > 0 ? 'in the same place, with other flags or replies' : undefined}
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
