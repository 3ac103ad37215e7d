import type { MadeUp } from '../../core/audit/finding';
import { assuming } from '../../core/audit/wording';
import type { Verdict } from '../../server/changes/verdicts';
import { neededClock } from './format';
import classes from './VerdictWords.module.css';

interface Props {
  readonly verdict: Verdict;
  /** The words for a proof. */
  readonly yes: string;
  /** The words for a witness of the contrary. */
  readonly no: string;
}

/** The answer of a proof about all possible messages, with a witness if there is one. */
export function VerdictWords({ verdict, yes, no }: Props) {
  if ('witness' in verdict) {
    return (
      <details className={classes.verdict}>
        <summary>
          <strong>{no}</strong>: see an example message
        </summary>
        {verdict.witness.now !== undefined && <p className={classes.verdict}>{neededClock(verdict.witness.now)}</p>}
        <pre className={classes.witness} dir="auto">
          {shownText(verdict.witness)}
        </pre>
      </details>
    );
  }
  if (verdict.verdict === 'undecided') {
    return (
      <p className={classes.verdict}>
        Undecided for all possible messages: {verdict.reason}. The counts for your stored mail still hold.
      </p>
    );
  }
  return (
    <p className={classes.verdict}>
      <strong>{yes}</strong>: {assuming('proved', verdict.assumes)}.
    </p>
  );
}

/** Longer example messages are mostly padding. */
const SHOWN = 4000;
const shownText = ({ open }: MadeUp): string => open.slice(0, SHOWN).trimEnd();
