'use client';

import { Loader } from '@mantine/core';
import { type ReactNode, useEffect, useState } from 'react';
import classes from './InBrowser.module.css';

/** Rows beyond which a page takes the server more than a tenth of a second to draw (measured). */
const MANY = 500;

interface Props {
  /** Rules, or whatever the page draws one by one. */
  readonly rows: number;
  readonly children: ReactNode;
}

/** Draws a page of very many rows in the browser alone: on the server, all other pages would wait for it. */
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
