import { NumberInput, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { LeafTest, TextMatch } from '../../../core/rules/rule';
import type { RuleOffers } from '../../../server/chain/rule-view';
import { formatNumber } from '../../common/format';
import { TextButton } from '../../common/TextButton';
import { Choice, Names } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';

const HEADERS = [
  'Subject',
  'List-Id',
  'Sender',
  'Reply-To',
  'Return-Path',
  'X-Spam-Flag',
  'Auto-Submitted',
  'Precedence',
];

/** Names of header fields, the usual ones offered. */
export function Headers({ headers, onChange }: { headers: readonly string[]; onChange: (headers: string[]) => void }) {
  return (
    <Names label="Header fields" placeholder="header field" names={headers} offers={HEADERS} onChange={onChange} />
  );
}

interface Props {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}

/** A single text argument of a test, such as a folder name. */
export function Words({ label, value, onChange }: Props) {
  return (
    <TextInput
      size="xs"
      aria-label={label}
      placeholder={label}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
    />
  );
}

interface KeysOrListProps {
  readonly label: string;
  readonly test: Extract<LeafTest, { test: 'address' | 'envelope' | 'header' }>;
  readonly offers: readonly string[];
  readonly named: RuleOffers['named'];
  readonly put: (test: LeafTest) => void;
}

/** Keys of its own, or a named list. */
export function KeysOrList({ label, test, offers, named, put }: KeysOrListProps) {
  const { list, ...own } = test;
  const used = named.find(({ id }) => id === list);
  const fits = named.filter(({ keys }) => keys.length > 0);
  if (used) {
    return (
      <span className={classes.fixed}>
        the list “{used.name}” ({formatNumber(used.keys.length)}){' '}
        <TextButton onClick={() => put({ ...own, keys: [...used.keys] })}>enter keys here instead</TextButton>
      </span>
    );
  }
  return (
    <>
      <Keys label={label} keys={test.keys} offers={offers} onChange={(keys) => put({ ...own, keys })} />
      {fits.length > 0 && test.keys.length === 0 && (
        <Choice
          label="Or a list"
          value=""
          choices={[{ value: '', label: 'or a list' }, ...fits.map(({ id, name }) => ({ value: id, label: name }))]}
          onChange={(id) => {
            const chosen = fits.find((one) => one.id === id);
            if (chosen) put({ ...own, keys: chosen.keys, list: chosen.id });
          }}
        />
      )}
    </>
  );
}

export const MATCHES = [
  { value: 'is', label: 'is' },
  { value: 'contains', label: 'contains' },
  { value: 'matches', label: 'matches' },
] as const;

type Comparison = Pick<TextMatch, 'match' | 'comparator'>;

/** Match type and case sensitivity. */
export function Match({ match, onChange }: { match: Comparison; onChange: (match: Comparison) => void }) {
  const exact = match.comparator === 'i;octet';
  const known = exact || match.comparator === 'i;ascii-casemap';
  return (
    <>
      <Choice
        label="How it is compared"
        value={match.match}
        choices={MATCHES}
        onChange={(value) => onChange({ ...match, match: value })}
      />
      <Choice
        label="Upper and lower case"
        value={match.comparator}
        choices={[
          { value: 'i;ascii-casemap', label: 'ignoring case' },
          { value: 'i;octet', label: 'case-sensitive' },
          ...(known ? [] : [{ value: match.comparator, label: match.comparator }]),
        ]}
        onChange={(value) => onChange({ ...match, comparator: value })}
      />
    </>
  );
}

const UNITS = [
  { value: '1', label: 'bytes' },
  { value: '1024', label: 'KB' },
  { value: String(1024 ** 2), label: 'MB' },
  { value: String(1024 ** 3), label: 'GB' },
];

type SizeTest = Extract<LeafTest, { test: 'size' }>;

/** Larger or smaller than a number of bytes, with its unit. */
export function Size({ test, put }: { test: SizeTest; put: (test: LeafTest) => void }) {
  const largest = UNITS.findLast(({ value }) => test.octets % Number(value) === 0 && test.octets >= Number(value));
  const [unit, setUnit] = useState(largest?.value ?? '1');
  const octets = (amount: number | string, of: string) => Math.max(0, Math.round(Number(amount) * Number(of)) || 0);
  return (
    <>
      <Choice
        label="Larger or smaller"
        value={test.relation}
        choices={[
          { value: 'over', label: 'is larger than' },
          { value: 'under', label: 'is smaller than' },
        ]}
        onChange={(value) => put({ ...test, relation: value })}
      />
      <NumberInput
        size="xs"
        aria-label="How much"
        className={classes.short}
        min={0}
        decimalScale={3}
        value={test.octets / Number(unit)}
        onChange={(value) => put({ ...test, octets: octets(value, unit) })}
      />
      <Choice
        label="Unit"
        value={unit}
        choices={UNITS}
        onChange={(value) => {
          put({ ...test, octets: octets(test.octets / Number(unit), value) });
          setUnit(value);
        }}
      />
    </>
  );
}

/** The parts of an address (RFC 5228 section 2.7.4, RFC 5233). */
export const PARTS = [
  { value: 'all', label: 'whole address' },
  { value: 'localpart', label: 'local part (before @)' },
  { value: 'domain', label: 'domain' },
] as const;

export const FURTHER_PARTS = [
  ...PARTS,
  { value: 'user', label: 'before “+”' },
  { value: 'detail', label: 'after “+”' },
] as const;

/** Whether fields of the message or of MIME parts are tested (RFC 5703 section 4). */
export const PART_FIELDS = [
  { value: 'part', label: 'of the MIME part' },
  { value: 'all parts', label: 'of any MIME part' },
] as const;
