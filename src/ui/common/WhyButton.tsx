import { Button, type ButtonProps, type PolymorphicComponentProps, Tooltip } from '@mantine/core';
import type { MouseEvent } from 'react';

type Props = PolymorphicComponentProps<'button', ButtonProps> & {
  /** Why the button does nothing now, as a sentence; null if it acts. */
  readonly why: string | null;
};

/**
 * A button that says why it does nothing: it can still be pointed at and have the focus, which a disabled one cannot. As
 * the button of a form it keeps the form from being sent.
 */
export function WhyButton({ why, onClick, ...button }: Props) {
  const press = (event: MouseEvent<HTMLButtonElement>) => {
    if (why === null) onClick?.(event);
    else event.preventDefault();
  };
  return (
    <Tooltip label={why} disabled={why === null} multiline maw={320} events={{ hover: true, focus: true, touch: true }}>
      <Button
        {...button}
        onClick={press}
        data-disabled={why === null ? undefined : true}
        aria-disabled={why === null ? undefined : true}
      />
    </Tooltip>
  );
}
