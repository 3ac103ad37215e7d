import { SegmentedControl } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type CSSProperties, useState } from 'react';
import type { ChainView } from '../../server/chain/view';
import { call, tell } from '../common/api';
import { DayInput } from '../common/DayInput';
import { formatNumber, formatPart } from '../common/format';
import { TextButton } from '../common/TextButton';
import { Swatch } from '../common/tints';
import classes from './Chain.module.css';

const ARRIVAL = 'arrival';
const CHOSEN = 'chosen';

interface ClockControlProps {
  readonly auditId: string;
  /** Milliseconds since 1970; null for the time when each message arrived. */
  readonly time: number | null;
}

/** Sets the current date that rules see: each message's arrival, or a fixed date. */
export function ClockControl({ auditId, time }: ClockControlProps) {
  const router = useRouter();
  const [chooses, setChooses] = useState(time !== null);
  const [day, setDay] = useState(time === null ? '' : new Date(time).toISOString().slice(0, 10));
  const save = (next: number | null) => {
    if (next === time) return;
    call(`/api/audits/${auditId}/clock`, 'PUT', { time: next })
      .then(() => router.refresh())
      .catch(tell);
  };
  return (
    <div className={classes.clock}>
      <span>Date for rules</span>
      <SegmentedControl
        size="xs"
        aria-label="The current date that rules see"
        value={chooses ? CHOSEN : ARRIVAL}
        data={[
          { value: ARRIVAL, label: 'day of arrival' },
          { value: CHOSEN, label: 'a fixed date' },
        ]}
        onChange={(value) => {
          setChooses(value === CHOSEN);
          if (value === ARRIVAL) save(null);
        }}
      />
      {chooses && (
        <DayInput
          minDate="1970-01-01"
          maxDate="2199-12-31"
          aria-label="The fixed date"
          value={day}
          onDay={(next) => {
            setDay(next);
            if (next !== '') save(Date.parse(`${next}T12:00:00Z`));
          }}
        />
      )}
    </div>
  );
}

interface SentControlProps {
  readonly auditId: string;
  /** Sent messages. */
  readonly sent: number;
  readonly included: boolean;
}

/** How many messages the user sent, and whether they are included; nothing if there are none. */
export function SentControl({ auditId, sent, included }: SentControlProps) {
  const router = useRouter();
  if (sent === 0) return null;
  const include = (next: boolean) => {
    call(`/api/audits/${auditId}/sent`, 'PUT', { included: next })
      .then(() => router.refresh())
      .catch(tell);
  };
  return (
    <div className={classes.clock}>
      <span>
        <Link href={`/audits/${auditId}/mail?sent=1`}>
          {sent === 1 ? '1 message' : `${formatNumber(sent)} messages`} you sent
        </Link>{' '}
        {sent === 1 ? 'is' : 'are'} {included ? 'counted' : 'not counted'}.
      </span>
      <TextButton onClick={() => include(!included)}>{included ? 'Exclude them' : 'Include them'}</TextButton>
    </div>
  );
}

const SHOWN = 12;

/** The end of the chain: mail that no rule stopped, and all destinations. */
export function Foot({ auditId, view, style }: { auditId: string; view: ChainView; style: CSSProperties }) {
  if (!view.foot) return <div style={style} />;
  const places = view.destinations.filter(({ count }) => count > 0).sort((a, b) => b.count - a.count);
  return (
    <div className={classes.foot} style={style}>
      <p>
        <Link href={`/audits/${auditId}/mail?passing=foot`}>{formatPart(view.foot.left, view.total)}</Link> messages
        reach the end of the chain;{' '}
        <Link href={`/audits/${auditId}/mail?passing=implicit`}>{formatPart(view.foot.implicitKeep, view.total)}</Link>{' '}
        stay in the inbox (implicit keep).
      </p>
      <ul className={classes.ends}>
        {places.slice(0, SHOWN).map((place) => (
          <li key={place.key}>
            <Swatch destination={place} /> <bdi>{place.label}</bdi>{' '}
            <Link href={`/audits/${auditId}/mail?fate=${encodeURIComponent(place.key)}`}>
              {formatPart(place.count, view.total)}
            </Link>
            {place.unread !== null && place.unread > 0 && (
              <>
                ,{' '}
                <Link href={`/audits/${auditId}/mail?fate=${encodeURIComponent(place.key)}&unseen=1`}>
                  {formatNumber(place.unread)} unseen
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
