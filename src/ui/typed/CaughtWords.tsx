import Link from 'next/link';
import { conditionOf, type Rule } from '../../core/rules/rule';
import type { TypedCounts } from '../../server/chain/typed-view';
import { formatNumber } from '../common/format';
import { heldPath } from '../common/mailPaths';
import classes from './Typed.module.css';

interface Props {
  readonly auditId: string;
  readonly rule: Rule;
  readonly counts: TypedCounts;
  readonly total: number;
}

/** What a rule that is being typed would catch; its messages are a click away. */
export function CaughtWords({ auditId, rule, counts, total }: Props) {
  const { caught, above, stopped, there, inbox, conversations } = counts;
  const path = heldPath(auditId, conditionOf(rule));
  const of = `${formatNumber(caught)} of ${formatNumber(total)}`;
  const parts = [
    conversations !== null && conversations < caught
      ? `${formatNumber(conversations)} ${conversations === 1 ? 'conversation' : 'conversations'}`
      : null,
    there > 0 ? `${formatNumber(there)} already there` : null,
    inbox > 0 ? `${formatNumber(inbox)} in the inbox` : null,
    above > 0 ? aboveWords(above, stopped) : null,
  ].filter((part) => part !== null);
  return (
    <span className={classes.caught} title={[of, ...parts].join(' · ')}>
      {path && caught > 0 ? (
        <Link href={path} target="_blank" className={classes.number}>
          {of}
        </Link>
      ) : (
        <span className={classes.number}>{of}</span>
      )}
      {parts.length > 0 && <span className={classes.soft}> · {parts.join(' · ')}</span>}
    </span>
  );
}

function aboveWords(above: number, stopped: number): string {
  const caught = `${formatNumber(above)} caught by rules above`;
  if (stopped === 0) return caught;
  return stopped === above ? `${caught}, which stop` : `${caught}, ${formatNumber(stopped)} of them stopped`;
}
