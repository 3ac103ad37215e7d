'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import type { ReactNode } from 'react';
import classes from './Head.module.css';

interface Props {
  /** One sentence with the number that matters. */
  readonly children: ReactNode;
  /** The one thing to do next. */
  readonly action?: ReactNode;
}

/** The head of a view. */
export function Head({ children, action }: Props) {
  return (
    <header className={classes.head}>
      <h1>{children}</h1>
      {action}
    </header>
  );
}

/** An action that leads to another view. */
export function Onward({ href, children }: { href: string; children: ReactNode }) {
  return (
    <Button component={Link} href={href} size="compact-sm">
      {children}
    </Button>
  );
}
