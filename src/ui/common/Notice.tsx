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

/** Shown if there are no rules: three ways to import them. */
export function NoRules({ auditId, title }: { auditId: string; title: string }) {
  return (
    <Notice title={title}>
      <ul>
        <li>
          <Link href={`/audits/${auditId}/gather`}>Import rules from files</Link>
        </li>
        <li>
          <Link href={`/audits/${auditId}/mailbox`}>Fetch rules and mail from a mail server</Link>
        </li>
        <li>
          <Link href={`/audits/${auditId}/sheet`}>Type rules in</Link>
        </li>
      </ul>
    </Notice>
  );
}

/** Shown if there is no mail. */
export function NoMail({ auditId, children }: { auditId: string; children?: string }) {
  return (
    <Notice title="No mail imported yet">
      {children && <p>{children}</p>}
      <p>
        <Link href={`/audits/${auditId}/gather`}>Import mail</Link>
      </p>
    </Notice>
  );
}
