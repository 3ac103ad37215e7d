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
        Why does it not reach the inbox?
      </Button>
    );
  }
  if (failure !== null) return <p className={classes.odd}>{failure}</p>;
  if (!answer) return <Loader size="xs" type="dots" />;
  if (answer.sets.length === 0) {
    return (
      <p className={classes.odd}>
        {answer.arrives ? 'It reaches the inbox.' : 'No set of rules was found that brings it there when it is off.'}
      </p>
    );
  }
  return (
    <section className={classes.absence} aria-label="Why it does not reach the inbox">
      <p>
        {answer.found === 1 && answer.complete
          ? 'There is one way to bring it to the inbox: switch off'
          : `It reaches the inbox when one of these ${answer.complete ? '' : 'and perhaps of others '}is off:`}
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
              change their fate, {formatNumber(arriving)} would come to the inbox.{' '}
              <TextButton onClick={() => setTried(tried === at ? null : at)}>Look at the change</TextButton>
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
