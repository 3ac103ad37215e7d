import Link from 'next/link';
import type { CSSProperties } from 'react';
import type { ChainView } from '../../server/chain/view';
import { formatNumber, formatPart } from '../common/format';
import { Swatch } from '../common/tints';
import classes from './Chain.module.css';

const SHOWN = 12;

/** What is left below the last rule, and where all mail ends. */
export function Foot({ auditId, view, style }: { auditId: string; view: ChainView; style: CSSProperties }) {
  if (!view.foot) return <div style={style} />;
  const places = view.destinations.filter(({ count }) => count > 0).sort((a, b) => b.count - a.count);
  return (
    <div className={classes.foot} style={style}>
      <p>
        <Link href={`/audits/${auditId}/mail?passing=foot`}>{formatPart(view.foot.left, view.total)}</Link> messages
        reach the foot;{' '}
        <Link href={`/audits/${auditId}/mail?passing=implicit`}>{formatPart(view.foot.implicitKeep, view.total)}</Link>{' '}
        stay in the inbox by the implicit keep.
      </p>
      <ul className={classes.ends}>
        {places.slice(0, SHOWN).map((place) => (
          <li key={place.key}>
            <Swatch destination={place} /> {place.label}{' '}
            <Link href={`/audits/${auditId}/mail?fate=${encodeURIComponent(place.key)}`}>
              {formatPart(place.count, view.total)}
            </Link>
            {place.unread !== null && place.unread > 0 && (
              <>
                ,{' '}
                <Link href={`/audits/${auditId}/mail?fate=${encodeURIComponent(place.key)}&unseen=1`}>
                  {formatNumber(place.unread)} unread
                </Link>
              </>
            )}
          </li>
        ))}
        {places.length > SHOWN && <li>and {places.length - SHOWN} more</li>}
      </ul>
    </div>
  );
}
