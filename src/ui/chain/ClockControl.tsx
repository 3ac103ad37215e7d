import { SegmentedControl, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { call, tell } from '../common/api';
import classes from './Chain.module.css';

const ARRIVAL = 'arrival';
const CHOSEN = 'chosen';

interface Props {
  readonly auditId: string;
  /** Milliseconds since 1970; null for the time at which each message arrived. */
  readonly time: number | null;
}

/** The date that rules with dates see: each message's arrival, or one date for all messages. */
export function ClockControl({ auditId, time }: Props) {
  const router = useRouter();
  const [chooses, setChooses] = useState(time !== null);
  const save = (next: number | null) => {
    if (next === time) return;
    call(`/api/audits/${auditId}/clock`, 'PUT', { time: next })
      .then(() => router.refresh())
      .catch(tell);
  };
  return (
    <div className={classes.clock}>
      <span>Rules with dates run on</span>
      <SegmentedControl
        size="xs"
        aria-label="The date on which rules with dates run"
        value={chooses ? CHOSEN : ARRIVAL}
        data={[
          { value: ARRIVAL, label: 'the day each message arrived' },
          { value: CHOSEN, label: 'one date' },
        ]}
        onChange={(value) => {
          setChooses(value === CHOSEN);
          if (value === ARRIVAL) save(null);
        }}
      />
      {chooses && (
        <TextInput
          size="xs"
          type="date"
          min="1970-01-01"
          max="2199-12-31"
          aria-label="The date on which the rules run"
          defaultValue={time === null ? '' : new Date(time).toISOString().slice(0, 10)}
          onChange={(event) => {
            const chosen = Date.parse(`${event.currentTarget.value}T12:00:00Z`);
            if (!Number.isNaN(chosen) && chosen >= 0) save(chosen);
          }}
        />
      )}
    </div>
  );
}
