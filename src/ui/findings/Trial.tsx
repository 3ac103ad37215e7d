import type { TrialView } from '../../server/findings/finding-view';
import { formatNumber } from '../common/format';
import classes from './Findings.module.css';

/** What a repair was seen to do, in a line. */
export function Trial({ trial }: { trial: TrialView }) {
  const { ends, worse, ended, brought, verdict, breaks } = trial;
  const others = ended - (ends ? 1 : 0);
  const said = [
    ends ? 'ends it' : 'does not end it',
    ...(others > 0 ? [`ends ${formatNumber(others)} more`] : []),
    worse.length > 0
      ? `brings ${formatNumber(worse.length)} graver`
      : brought > 0
        ? `brings ${formatNumber(brought)}, none graver`
        : 'brings none',
    ...(verdict?.verdict === 'equivalent' ? ['no message can be treated differently'] : []),
    ...(breaks.length > 0 ? [`breaks the expectation ${breaks.map((name) => `“${name}”`).join(', ')}`] : []),
  ];
  const good = ends && worse.length === 0 && breaks.length === 0;
  return (
    <span className={classes.trial} data-good={good || undefined} title={worse.map(({ claim }) => claim).join('\n')}>
      {said.join(', ')}
    </span>
  );
}
