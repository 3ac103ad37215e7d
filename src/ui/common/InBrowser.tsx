'use client';

import { Loader } from '@mantine/core';
import { type ReactNode, useEffect, useState } from 'react';
import classes from './InBrowser.module.css';

/** Above this number of rows, the server needs more than 100 ms to render a page (measured). */
const MANY = 500;

interface Props {
  /** Number of rules, or of other items that the page renders one by one. */
  readonly rows: number;
  readonly children: ReactNode;
}

/** Renders a page of very many rows in the browser only: rendering it on the server would block all other requests. */
export function InBrowser({ rows, children }: Props) {
  const [isHere, setIsHere] = useState(rows <= MANY);
  useEffect(() => setIsHere(true), []);
  if (isHere) return children;
  return (
    <p className={classes.waiting} role="status">
      Loading {rows.toLocaleString('en')} rules <Loader size="xs" type="dots" component="span" />
    </p>
  );
}
