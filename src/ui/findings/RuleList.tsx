import Link from 'next/link';
import type { NamedRule } from '../../server/findings/finding-view';
import { RuleWords } from '../common/RuleWords';
import classes from './Findings.module.css';

/** Rules with their sentences, each leading to its rung. */
export function RuleList({ auditId, rules }: { auditId: string; rules: readonly NamedRule[] }) {
  return (
    <ol className={classes.rules}>
      {rules.map((rule) => (
        <li key={rule.id}>
          <span className={classes.ruleNumber}>{rule.number}</span>
          <div>
            <Link href={`/audits/${auditId}/chain#${rule.id}`}>{rule.name}</Link>
            <RuleWords className={classes.ruleSentence} rule={rule} />
          </div>
        </li>
      ))}
    </ol>
  );
}
