import type { ComponentPropsWithoutRef } from 'react';
import classes from './TextButton.module.css';

/** Something to be done that stands in a line of words, and looks like a link. */
export function TextButton(props: Omit<ComponentPropsWithoutRef<'button'>, 'type' | 'className'>) {
  return <button type="button" className={classes.button} {...props} />;
}
