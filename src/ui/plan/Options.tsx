'use client';

import { Button } from '@mantine/core';
import { type Destination, destinationKey } from '../../core/fates/destination';
import { destinationWords } from './destination-words';
import classes from './Plan.module.css';

interface Option {
  readonly destination: Destination;
  readonly asNow: boolean;
}

interface Props<T extends Option> {
  readonly options: readonly T[];
  /** The key of the destination that was chosen; null for none. */
  readonly chosen: string | null;
  readonly choose: (option: T) => void;
  /** What an answer does. */
  readonly effectOf: (option: T) => string;
}

/** The destinations that a question offers, numbered as the keys that choose them. */
export function Options<T extends Option>({ options, chosen, choose, effectOf }: Props<T>) {
  return (
    <ol className={classes.options}>
      {options.map((option, index) => (
        <li key={destinationKey(option.destination)}>
          <Button
            variant={chosen === destinationKey(option.destination) ? 'filled' : 'default'}
            onClick={() => choose(option)}
            aria-pressed={chosen === destinationKey(option.destination)}
            leftSection={<kbd>{index + 1}</kbd>}
          >
            {destinationWords(option.destination)}
            {option.asNow && ', as it is now'}
          </Button>
          <span className={classes.optionEffect}>{effectOf(option)}</span>
        </li>
      ))}
    </ol>
  );
}
