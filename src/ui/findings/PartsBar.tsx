import Link from 'next/link';
import type { FindingView } from '../../server/findings/finding-view';
import { formatNumber } from '../common/format';
import classes from './Findings.module.css';

type Parts = Pick<FindingView, 'split' | 'rules'> & { readonly key?: string };

/** Two rules as one bar in three parts: messages that match only the first, both, only the second. */
export function PartsBar({ auditId, finding }: { auditId: string; finding: Parts }) {
  const { split, rules } = finding;
  const [first, second] = rules;
  if (!split || !first || !second) return null;
  const parts = [
    { key: 'first', count: split.onlyFirst, words: `only ${first.name}`, href: `mail?rule=${first.id}&part=held` },
    {
      key: 'both',
      count: split.both,
      words: 'both',
      href: `mail?finding=${encodeURIComponent(finding.key ?? `overlap ${first.id} ${second.id}`)}`,
    },
    { key: 'second', count: split.onlySecond, words: `only ${second.name}`, href: `mail?rule=${second.id}&part=held` },
  ];
  return (
    <div className={classes.parts}>
      {parts.map(({ key, count, words, href }) => (
        <Link
          key={key}
          href={`/audits/${auditId}/${href}`}
          className={classes.part}
          data-part={key}
          style={{ flexGrow: Math.max(count, 0.001) }}
          title={`${words}: ${formatNumber(count)}`}
        >
          <strong>{formatNumber(count)}</strong> {words}
        </Link>
      ))}
    </div>
  );
}
