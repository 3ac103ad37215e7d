import type { MadeUp } from '../../core/audit/finding';
import { PROOF_ASSUMES } from '../../core/audit/wording';
import type { Verdict } from '../../server/changes/verdicts';
import classes from './VerdictWords.module.css';

interface Props {
  readonly verdict: Verdict;
  /** What is said where the answer is yes, for all messages. */
  readonly yes: string;
  /** What is said where a message shows the contrary. */
  readonly no: string;
}

/** What reasoning says of all possible messages; with the message that shows it, where one does. */
export function VerdictWords({ verdict, yes, no }: Props) {
  if ('witness' in verdict) {
    return (
      <details className={classes.verdict}>
        <summary>
          <strong>{no}</strong>: see a message that shows it
        </summary>
        <pre className={classes.witness} dir="auto">
          {shownText(verdict.witness)}
        </pre>
      </details>
    );
  }
  if (verdict.verdict === 'undecided') {
    return (
      <p className={classes.verdict}>
        It could not be settled for all possible messages: {verdict.reason}. What is counted on stored mail is so.
      </p>
    );
  }
  return (
    <p className={classes.verdict} title={PROOF_ASSUMES}>
      <strong>{yes}</strong>: this is proved.
    </p>
  );
}

/** Longer made-up messages are mostly blanks that fill them. */
const SHOWN = 4000;
const shownText = ({ open }: MadeUp): string => open.slice(0, SHOWN).trimEnd();
