import Link from 'next/link';
import type { ReactNode } from 'react';
import classes from './Notice.module.css';

/** The message of an empty, failed or loading view. */
export function Notice({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <section className={classes.notice}>
      <h2>{title}</h2>
      {children}
    </section>
  );
}

interface Empty {
  readonly auditId: string;
  readonly title?: string;
  /** What the view will show, as a sentence. */
  readonly children: string;
}

/** Shown if there are no rules: what the view will show, and the ways to import some. */
export function NoRules({ auditId, title = 'No rules imported yet', children }: Empty) {
  return (
    <Notice title={title}>
      <p>{children}</p>
      <ul>
        <li>
          <Link href={`/audits/${auditId}/gather`}>Import rules from files</Link>
        </li>
        <li>
          <Link href={`/audits/${auditId}/mailbox`}>Fetch rules and mail from a mail server</Link>
        </li>
        <li>
          Type rules in <Link href={`/audits/${auditId}/sentences`}>as sentences</Link> or{' '}
          <Link href={`/audits/${auditId}/sheet`}>as a sheet</Link>
        </li>
      </ul>
    </Notice>
  );
}

/** Shown if there is no mail: what the view will show, and the ways to import some. */
export function NoMail({ auditId, title = 'No mail imported yet', children }: Empty) {
  return (
    <Notice title={title}>
      <p>{children}</p>
      <ul>
        <li>
          <Link href={`/audits/${auditId}/gather`}>Import mail from files</Link>
        </li>
        <li>
          <Link href={`/audits/${auditId}/mailbox`}>Fetch a mailbox from a mail server</Link>
        </li>
      </ul>
    </Notice>
  );
}
