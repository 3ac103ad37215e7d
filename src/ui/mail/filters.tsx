'use client';

import { Select, TextInput } from '@mantine/core';
import { DatePickerInput } from '@mantine/dates';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useId, useState } from 'react';
import type { Destination } from '../../server/chain/destinations';
import type { Offers } from '../../server/mail/filters-view';
import classes from './Mail.module.css';

/** The present filters, and their choices. */
export interface Filters {
  readonly query: URLSearchParams;
  readonly setQuery: (change: Record<string, string | null>) => void;
  readonly simulated: boolean;
  readonly rules: readonly { readonly id: string; readonly name: string }[];
  readonly destinations: readonly Destination[];
  readonly offers: Offers;
}

interface FieldProps extends Filters {
  /** Keys of the query. */
  readonly name: string;
  readonly words: string;
}

/** A text filter, applied when typing pauses. */
export function Words({ name, words, query, setQuery, wide }: FieldProps & { readonly wide?: boolean }) {
  const given = query.get(name) ?? '';
  const [typed, setTyped] = useState(given);
  const [settled] = useDebouncedValue(typed, 200);
  useEffect(() => setQuery({ [name]: settled || null }), [name, settled, setQuery]);
  // Follows filters that are cleared elsewhere.
  useEffect(() => setTyped((before) => (given === '' ? '' : before)), [given]);
  return (
    <TextInput
      size="xs"
      aria-label={words}
      placeholder={words}
      value={typed}
      onChange={(event) => setTyped(event.currentTarget.value)}
      className={wide ? classes.search : undefined}
    />
  );
}

interface ChoiceProps extends FieldProps {
  readonly data: readonly { readonly value: string; readonly label: string }[];
  readonly disabled?: boolean;
}

export function Choice({ name, words, query, setQuery, data, disabled }: ChoiceProps) {
  return (
    <Select
      size="xs"
      aria-label={words}
      placeholder={words}
      clearable
      searchable
      disabled={disabled ?? false}
      value={query.get(name)}
      data={[...data]}
      onChange={(value) => setQuery({ [name]: value })}
      comboboxProps={{ width: 'max-content', position: 'bottom-start' }}
    />
  );
}

export function Toggle({ name, words, query, setQuery }: FieldProps) {
  const on = query.get(name) === '1';
  return (
    <button
      type="button"
      className={classes.toggle}
      aria-pressed={on}
      onClick={() => setQuery({ [name]: on ? null : '1' })}
    >
      {words}
    </button>
  );
}

/** A filter that only links can set, with a button to clear it. */
export function Removable({ name, words, setQuery }: FieldProps) {
  return (
    <button type="button" className={classes.toggle} aria-pressed="true" onClick={() => setQuery({ [name]: null })}>
      {words} ×
    </button>
  );
}

/** A filter for the days from one to another, from a calendar; the first day alone is a filter already. */
export function Days({ query, setQuery }: Pick<FieldProps, 'query' | 'setQuery'>) {
  const id = useId();
  return (
    <DatePickerInput
      id={id}
      // The calendar is named by the field.
      popoverProps={{ id }}
      type="range"
      size="xs"
      aria-label="from one day to another"
      placeholder="from … to …"
      valueFormat="D MMM YYYY"
      firstDayOfWeek={1}
      numberOfColumns={2}
      allowSingleDateInRange
      clearable
      value={[query.get('since'), query.get('until')]}
      onChange={([since, until]) => setQuery({ since, until })}
      className={classes.days}
      classNames={{ placeholder: classes.between }}
    />
  );
}

const PARTS = [
  { value: 'fired', label: 'it acts on' },
  { value: 'held', label: 'match its tests' },
  { value: 'reached', label: 'reach it' },
  { value: 'exempt', label: 'it exempts' },
  { value: 'stopped', label: 'stop at it' },
];

/** The select needs a value for “no rule”. */
const NONE = '(none)';

/** A filter for a rule and the relation to it; or for no rule. */
export function RuleChoice(filters: Filters) {
  const { query, setQuery, simulated, rules } = filters;
  const chosen = query.get('untouched') ? NONE : query.get('rule');
  return (
    <>
      <Select
        size="xs"
        aria-label="Rule"
        placeholder="rule"
        clearable
        searchable
        disabled={!simulated}
        value={chosen}
        data={[{ value: NONE, label: 'no rule acts' }, ...rules.map(({ id, name }) => ({ value: id, label: name }))]}
        onChange={(rule) => setQuery({ rule: rule === NONE ? null : rule, untouched: rule === NONE ? '1' : null })}
        comboboxProps={{ width: 'max-content', position: 'bottom-end' }}
      />
      {query.get('rule') && (
        <Select
          size="xs"
          aria-label="Relation to the rule"
          value={query.get('part') ?? 'fired'}
          data={PARTS}
          allowDeselect={false}
          onChange={(part) => setQuery({ part })}
        />
      )}
    </>
  );
}
