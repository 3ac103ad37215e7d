import Link from 'next/link';
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

/** Where there are no rules yet: the three ways to bring them in. */
export function NoRules({ auditId, title }: { auditId: string; title: string }) {
  return (
    <Notice title={title}>
      <ul>
        <li>
          <Link href={`/audits/${auditId}/gather`}>Bring rules in from files</Link>
        </li>
        <li>
          <Link href={`/audits/${auditId}/server`}>Fetch them from a server</Link>
        </li>
        <li>
          <Link href={`/audits/${auditId}/sheet`}>Type them in</Link>
        </li>
      </ul>
    </Notice>
  );
}

/** Where there is no mail yet. */
export function NoMail({ auditId, children }: { auditId: string; children?: string }) {
  return (
    <Notice title="There is no mail yet">
      {children && <p>{children}</p>}
      <p>
        <Link href={`/audits/${auditId}/gather`}>Bring mail in</Link>
      </p>
    </Notice>
  );
}
