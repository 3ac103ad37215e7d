import { DateInput, type DateInputProps } from '@mantine/dates';
import { useId } from 'react';

type Props = Pick<
  DateInputProps,
  'label' | 'aria-label' | 'placeholder' | 'minDate' | 'maxDate' | 'clearable' | 'id'
> & {
  /** A day as ISO 8601 has it, `2026-01-31`; empty for none. */
  readonly value: string;
  readonly onDay: (day: string) => void;
};

/** A day, typed or chosen from a calendar; weeks begin on Monday (ISO 8601). */
export function DayInput({ value, onDay, ...props }: Props) {
  const own = useId();
  const id = props.id ?? own;
  return (
    <DateInput
      {...props}
      id={id}
      popoverProps={{ id }}
      size="xs"
      valueFormat="YYYY-MM-DD"
      firstDayOfWeek={1}
      placeholder={props.placeholder ?? '2026-01-31'}
      value={value === '' ? null : value}
      onChange={(day) => onDay(day ?? '')}
    />
  );
}
