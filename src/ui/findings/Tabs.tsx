import Link from 'next/link';
import classes from './Findings.module.css';

const PAGES = [
  ['findings', 'Findings'],
  ['findings/overlaps', 'Which rules meet'],
  ['findings/health', 'The chain as a whole'],
  ['findings/together', 'Repairs taken together'],
] as const;

/** The pages on what the audit states. */
export function Tabs({ auditId, current }: { auditId: string; current: (typeof PAGES)[number][0] }) {
  return (
    <nav className={classes.tabs} aria-label="Pages of findings">
      {PAGES.map(([path, name]) => (
        <Link key={path} href={`/audits/${auditId}/${path}`} aria-current={path === current ? 'page' : undefined}>
          {name}
        </Link>
      ))}
    </nav>
  );
}
