import Link from 'next/link';
import { VIEWS, type ViewPath } from '../../views';
import classes from './Findings.module.css';

const PAGES = VIEWS.filter(({ place }) => place === 'findings');

/** The pages on what the audit states. */
export function Tabs({ auditId, current }: { auditId: string; current: ViewPath }) {
  return (
    <nav className={classes.tabs} aria-label="Pages of findings">
      {PAGES.map(({ path, title }) => (
        <Link key={path} href={`/audits/${auditId}/${path}`} aria-current={path === current ? 'page' : undefined}>
          {title}
        </Link>
      ))}
    </nav>
  );
}
