import Link from 'next/link';
import type { SheetView } from '../../server/chain/sheet-view';
import { formatNumber } from '../common/format';
import classes from './Sheet.module.css';

/** What has no row in a sheet, and why. */
export function WithoutBlocks({ auditId, blocks }: { auditId: string; blocks: SheetView['blocks'] }) {
  if (blocks.length === 0) return null;
  return (
    <details className={classes.soft}>
      <summary>
        without {formatNumber(blocks.length)} script {blocks.length === 1 ? 'block' : 'blocks'}
      </summary>
      <ul>
        {blocks.map(({ id, name, reason }) => (
          <li key={id}>
            <Link href={`/audits/${auditId}/chain#${id}`}>{name}</Link>: {reason}
          </li>
        ))}
      </ul>
    </details>
  );
}
