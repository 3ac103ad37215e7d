import { ActionIcon, Button } from '@mantine/core';
import { IconArrowDown, IconArrowUp, IconX } from '@tabler/icons-react';
import type { ReactNode } from 'react';
import { formatBytes } from './format';
import classes from './OrderOfRules.module.css';
import type { Drops } from './useDrops';
import { WhyButton } from './WhyButton';

/** Lets the user order several files of rules before they are imported. */
export function OrderOfRules({ drops }: { drops: Drops }) {
  const { asked, reorder } = drops;
  if (!asked) return null;
  const move = (from: number, to: number) => {
    const files = [...asked];
    const [file] = files.splice(from, 1);
    if (file) files.splice(to, 0, file);
    reorder(files);
  };
  return (
    <section className={classes.order} aria-label="Order of the rules">
      <p>
        <strong>These files run in this order.</strong> Change the order if needed; nothing is imported yet.
      </p>
      <ol>
        {asked.map((file, at) => (
          <li key={`${file.name} ${file.size} ${file.lastModified}`}>
            <span className={classes.name} dir="auto" title={file.name}>
              {file.name}
            </span>
            <span className={classes.size}>{formatBytes(file.size)}</span>
            <Step label={`Move ${file.name} up`} disabled={at === 0} onClick={() => move(at, at - 1)}>
              <IconArrowUp size={14} />
            </Step>
            <Step label={`Move ${file.name} down`} disabled={at === asked.length - 1} onClick={() => move(at, at + 1)}>
              <IconArrowDown size={14} />
            </Step>
            <Step label={`Leave ${file.name} out`} onClick={() => reorder(asked.filter((one) => one !== file))}>
              <IconX size={14} />
            </Step>
          </li>
        ))}
      </ol>
      <WhyButton size="xs" onClick={drops.accept} why={asked.length === 0 ? 'All files are left out.' : null}>
        Import in this order
      </WhyButton>{' '}
      <Button size="xs" variant="default" onClick={drops.cancel}>
        Cancel
      </Button>
    </section>
  );
}

interface StepProps {
  readonly label: string;
  readonly disabled?: boolean;
  readonly onClick: () => void;
  readonly children: ReactNode;
}

function Step({ label, disabled = false, onClick, children }: StepProps) {
  return (
    <ActionIcon variant="subtle" size="sm" aria-label={label} disabled={disabled} onClick={onClick}>
      {children}
    </ActionIcon>
  );
}
