import { TextInput } from '@mantine/core';
import { useState } from 'react';
import { useAct } from './answers';
import classes from './ReasonForm.module.css';
import { WhyButton } from './WhyButton';

interface Props {
  /** What the field asks for. */
  readonly label: string;
  /** Shown within the field; the label then names it for assistive technology only. */
  readonly placeholder?: string;
  /** Why nothing can be done without a reason, as a sentence; null if one is not needed. */
  readonly why: string | null;
  /** The words of the button. */
  readonly children: string;
  readonly onReason: (reason: string) => Promise<unknown>;
  /** Called once it is done. */
  readonly onDone?: () => void;
}

/** A field for a reason, and the button that does something for it. */
export function ReasonForm({ label, placeholder, why, children, onReason, onDone }: Props) {
  const [reason, setReason] = useState('');
  const { act, busy } = useAct();
  return (
    <form
      className={classes.form}
      onSubmit={(event) => {
        event.preventDefault();
        void act(() => onReason(reason)).then((isDone) => isDone && onDone?.());
      }}
    >
      <TextInput
        size="xs"
        {...(placeholder === undefined ? { label } : { 'aria-label': label, placeholder })}
        maxLength={2000}
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      <WhyButton
        type="submit"
        size="compact-sm"
        variant="default"
        loading={busy}
        why={reason.trim() === '' ? why : null}
      >
        {children}
      </WhyButton>
    </form>
  );
}
