import type { ReactNode } from 'react';
import classes from './Notice.module.css';

/** What a view says when it has nothing else to show: empty, failed, or still waiting. */
export function Notice({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <section className={classes.notice}>
      <h2>{title}</h2>
      {children}
    </section>
  );
}
