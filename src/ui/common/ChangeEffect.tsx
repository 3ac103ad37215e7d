import Link from 'next/link';
import type { Edit } from '../../core/rules/edit';
import type { PreviewView } from '../../server/changes/view';
import classes from './ChangePreview.module.css';
import { formatDay, formatNumber, formatPart } from './format';
import { MaybeLink } from './MaybeLink';
import { trialPath } from './mailPaths';

const SHOWN_ROWS = 6;

interface EffectProps {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  readonly preview: PreviewView;
}

/** The stored messages that a change would treat differently. */
export function ChangeEffect({ auditId, edits, preview }: EffectProps) {
  const { words, comparison } = preview;
  if (!comparison) return <p>{words}. Its effect is not known before the chain is simulated.</p>;
  const { changed, total, moves, rows } = comparison;
  return (
    <>
      <p className={classes.words}>{words}</p>
      <p className={classes.count}>
        {changed === 0 ? (
          'No stored message changes its fate'
        ) : (
          <>
            <MaybeLink path={trialPath(auditId, edits)}>{formatPart(changed, total)}</MaybeLink> messages change their
            fate
          </>
        )}
      </p>
      <table className={classes.moves}>
        <tbody>
          {moves.slice(0, 5).map(({ from, to, count }) => (
            <tr key={`${from} > ${to}`}>
              <td>
                <MaybeLink path={trialPath(auditId, edits, { was: from, becomes: to, flags: '1' })}>
                  {formatNumber(count)}
                </MaybeLink>
              </td>
              <td>
                {from} → <strong>{to}</strong>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {moves.length > 5 && <p>and {formatNumber(moves.length - 5)} more ways</p>}
      <ul className={classes.rows}>
        {rows.slice(0, SHOWN_ROWS).map((row) => (
          <li key={row.number}>
            <Link href={`/audits/${auditId}/mail/${row.number}`}>{row.subject || '(no subject)'}</Link>
            <span>
              {row.from}, {formatDay(row.date)}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
