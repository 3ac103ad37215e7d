import { NumberInput } from '@mantine/core';
import { useState } from 'react';
import type { LeafTest } from '../../../core/rules/rule';
import { Choice } from '../fields';
import classes from '../RuleDesk.module.css';

const UNITS = [
  { value: '1', label: 'bytes' },
  { value: '1024', label: 'KB' },
  { value: String(1024 ** 2), label: 'MB' },
  { value: String(1024 ** 3), label: 'GB' },
];

type SizeTest = Extract<LeafTest, { test: 'size' }>;

/** Over or under so many bytes, in a unit of its own. */
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
          { value: 'over', label: 'is over' },
          { value: 'under', label: 'is under' },
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
