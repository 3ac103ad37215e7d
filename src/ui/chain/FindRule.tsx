import { ActionIcon, Checkbox, TextInput } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { IconChevronDown, IconChevronUp } from '@tabler/icons-react';
import { useRef } from 'react';
import { formatNumber } from '../common/format';
import classes from './Chain.module.css';

interface Props {
  readonly words: string;
  readonly onWords: (words: string) => void;
  /** Whether only the rules found are shown. */
  readonly only: boolean;
  readonly onOnly: (only: boolean) => void;
  /** How many rules contain the words, and which of them is selected, from 0; -1 for none. */
  readonly found: number;
  readonly at: number;
  /** Selects the next or the previous one. */
  readonly onStep: (step: 1 | -1) => void;
}

/** Finds rules by their words. The browser itself finds only those that are on the screen, so Ctrl+F comes here. */
export function FindRule({ words, onWords, only, onOnly, found, at, onStep }: Props) {
  const field = useRef<HTMLInputElement>(null);
  useHotkeys([['mod + F', () => field.current?.select()]], []);
  const none = found === 0;
  return (
    <>
      <TextInput
        ref={field}
        size="xs"
        aria-label="Find in the rules (Ctrl F)"
        placeholder="find in the rules"
        value={words}
        onChange={(event) => onWords(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') onWords('');
          if (event.key === 'Enter' && !none) onStep(event.shiftKey ? -1 : 1);
        }}
        className={classes.find}
      />
      {words.trim() !== '' && (
        <>
          <span role="status" className={classes.of}>
            {at < 0 ? `${formatNumber(found)} found` : `${formatNumber(at + 1)} of ${formatNumber(found)}`}
          </span>
          <ActionIcon.Group>
            <ActionIcon
              size="sm"
              variant="default"
              aria-label="the one before"
              disabled={none}
              onClick={() => onStep(-1)}
            >
              <IconChevronUp size={14} />
            </ActionIcon>
            <ActionIcon size="sm" variant="default" aria-label="the next one" disabled={none} onClick={() => onStep(1)}>
              <IconChevronDown size={14} />
            </ActionIcon>
          </ActionIcon.Group>
          <Checkbox
            size="xs"
            label="only these"
            checked={only}
            onChange={(event) => onOnly(event.currentTarget.checked)}
          />
        </>
      )}
    </>
  );
}
