import { Checkbox, NumberInput } from '@mantine/core';
import classes from './Mailbox.module.css';

const USUAL = 4190;

/** Whether scripts are looked for as well, and on which port. */
export function SievePort({ port, onPort }: { port: number | null; onPort: (port: number | null) => void }) {
  return (
    <div className={classes.sieve}>
      <Checkbox
        size="xs"
        label="Also look for Sieve scripts (ManageSieve)"
        checked={port !== null}
        onChange={(event) => onPort(event.currentTarget.checked ? USUAL : null)}
      />
      {port !== null && (
        <NumberInput
          size="xs"
          aria-label="Port of ManageSieve"
          min={1}
          max={65_535}
          hideControls
          thousandSeparator=""
          value={port}
          onChange={(value) => onPort(Number(value) || USUAL)}
        />
      )}
    </div>
  );
}
