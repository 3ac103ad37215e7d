'use client';

import { Button, Loader } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import { absenceAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber, formatPart } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { trialPath } from '../common/mailPaths';
import { TextButton } from '../common/TextButton';
import classes from './Message.module.css';

/** Which rules keep a message out of the inbox, and what else would change without them. */
export function Absence({ auditId, number }: { auditId: string; number: number }) {
  const [asked, setAsked] = useState(false);
  const [tried, setTried] = useState<number | null>(null);
  const path = asked ? `/api/audits/${auditId}/absence?number=${number}` : null;
  const { answer, failure } = useAnswer(absenceAnswer, path);
  if (!asked) {
    return (
      <Button size="compact-sm" variant="default" onClick={() => setAsked(true)}>
        Why does this message not reach the inbox?
      </Button>
    );
  }
  if (failure !== null) return <p className={classes.odd}>{failure}</p>;
  if (!answer) return <Loader size="xs" type="dots" />;
  if (answer.sets.length === 0) {
    return (
      <p className={classes.odd}>
        {answer.arrives
          ? 'This message reaches the inbox.'
          : 'No set of rules was found that brings this message to the inbox when switched off.'}
      </p>
    );
  }
  return (
    <section className={classes.absence} aria-label="Why this message does not reach the inbox">
      <p>
        {answer.found === 1 && answer.complete
          ? 'This message reaches the inbox if you switch off'
          : `This message reaches the inbox if you switch off one of these${answer.complete ? '' : ' (there may be others)'}:`}
      </p>
      <ol className={classes.ways}>
        {answer.sets.map(({ rules, changed, arriving, edits }, at) => (
          <li key={rules.map(({ id }) => id).join(' ')}>
            <span>
              {rules.slice(0, 6).map(({ id, name, place }, index) => (
                <span key={id}>
                  {index > 0 && ' and '}
                  <Link href={`/audits/${auditId}/chain#${id}`}>
                    {place + 1} {name}
                  </Link>
                </span>
              ))}
              {rules.length > 6 && ` and ${formatNumber(rules.length - 6)} more`}
            </span>
            <span className={classes.soft}>
              <MaybeLink path={trialPath(auditId, edits)}>{formatPart(changed, answer.total)}</MaybeLink> messages would
              have a different destination, {formatNumber(arriving)} would reach the inbox.{' '}
              <TextButton onClick={() => setTried(tried === at ? null : at)}>Preview</TextButton>
            </span>
            {tried === at && (
              <ChangePreview
                auditId={auditId}
                edits={edits}
                why="A message did not reach the inbox"
                onDone={() => setTried(null)}
                onMade={() => {
                  setTried(null);
                  setAsked(false);
                }}
              />
            )}
          </li>
        ))}
      </ol>
      {answer.found > answer.sets.length && <p>and {formatNumber(answer.found - answer.sets.length)} more ways</p>}
    </section>
  );
}
