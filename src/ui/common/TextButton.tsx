import type { ComponentPropsWithoutRef } from 'react';
import classes from './TextButton.module.css';

/** A button within a sentence that looks like a link. */
export function TextButton(props: Omit<ComponentPropsWithoutRef<'button'>, 'type' | 'className'>) {
  return <button type="button" {...props} className={classes.button} />;
}
