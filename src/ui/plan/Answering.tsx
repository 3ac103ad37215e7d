'use client';

import { Loader } from '@mantine/core';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import type { Destination } from '../../core/fates/destination';
import { givenAnswer, scopesAnswer } from '../../server/http/answers';
import type { Contradiction, ScopeLine } from '../../server/plan/scopes';
import { useAct, useAsked } from '../common/answers';
import { call } from '../common/api';
import { formatNumber, formatPart, messagesWord } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { heldPath } from '../common/mailPaths';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import classes from './Plan.module.css';

interface Props {
  readonly auditId: string;
  readonly message: number;
  readonly subject: string;
  readonly destination: Destination;
  readonly onKept: () => void;
}

/** Which messages an answer speaks for, before it is kept. */
export function Answering({ auditId, message, subject, destination, onKept }: Props) {
  const { act, busy } = useAct();
  const [at, setAt] = useState<number | null>(null);
  const [against, setAgainst] = useState<Contradiction | null>(null);
  const keepButton = useRef<HTMLButtonElement>(null);
  const path = `/api/audits/${auditId}/plan`;
  const { answer: found, failure } = useAsked(['scopes', auditId, message, JSON.stringify(destination)], async () =>
    scopesAnswer.parse(await call(`${path}/scopes`, 'POST', { message, destination })),
  );
  const isKnown = found !== undefined;
  useEffect(() => {
    if (isKnown) keepButton.current?.focus();
  }, [isKnown]);
  if (failure !== null) return <p className={classes.unmet}>{failure}</p>;
  if (!found) return <Loader size="xs" type="dots" />;
  const index = at ?? found.chosen;
  const scope = found.scopes[index];
  if (!scope) return null;
  const name = `Answer about ${subject === '' ? 'a message without a subject' : subject}`.slice(0, 200);
  const keep = async () => {
    let contradicted: Contradiction | null = null;
    const isSaid = await act(async () => {
      const given = givenAnswer.parse(
        await call(`${path}/answers`, 'POST', { message, destination, scope: scope.tests, name }),
      );
      contradicted = 'against' in given ? given.against : null;
    });
    setAgainst(contradicted);
    if (isSaid && contradicted === null) onKept();
  };
  const widen = (by: number) => {
    setAgainst(null);
    setAt(index + by);
  };
  const shown = against ?? scope.against;
  return (
    <section className={classes.answering} aria-label="Your answer" aria-live="polite">
      <p className={classes.answer}>{scope.words}.</p>
      <p className={classes.soft}>
        <MaybeLink path={heldPath(auditId, scope.tests)}>{messagesWord(scope.messages)}</MaybeLink>
        {effectWords(scope)}
      </p>
      {shown && <Contradicted auditId={auditId} message={message} against={shown} />}
      <div className={classes.others}>
        <WhyButton
          ref={keepButton}
          size="compact-sm"
          onClick={keep}
          loading={busy}
          why={shown !== null ? 'It contradicts the answer shown above.' : null}
        >
          Save this answer
        </WhyButton>
        <WhyButton
          size="compact-sm"
          variant="default"
          why={index === 0 ? 'This is the fewest messages.' : null}
          onClick={() => widen(-1)}
        >
          Fewer messages
        </WhyButton>
        <WhyButton
          size="compact-sm"
          variant="default"
          why={index === found.scopes.length - 1 ? 'This is the most messages.' : null}
          onClick={() => widen(1)}
        >
          More messages
        </WhyButton>
        <span className={classes.soft}>
          {formatNumber(index + 1)} of {formatNumber(found.scopes.length)}
        </span>
      </div>
    </section>
  );
}

const effectWords = ({ messages, there }: ScopeLine): string =>
  there === messages
    ? messages === 1
      ? ', which would have this destination.'
      : ', all of which would have this destination.'
    : `, of which ${formatPart(there, messages)} would have this destination; the rest is worked out from your answer.`;

/** An earlier answer that cannot be true together with this one, with both messages. */
function Contradicted({
  auditId,
  message,
  against: { id, words, message: earlier, shared, example },
}: {
  readonly auditId: string;
  readonly message: number;
  readonly against: Contradiction;
}) {
  const { act, busy } = useAct();
  const link = (number: number, text: string) => <Link href={`/audits/${auditId}/mail/${number}`}>{text}</Link>;
  return (
    <div role="alert" className={classes.unmet}>
      <p>
        This contradicts {earlier === null ? 'an expectation' : 'an earlier answer'}: {words}.
      </p>
      <p>
        {shared === 1 ? 'One message is' : `${formatNumber(shared)} messages are`} in both, such as{' '}
        {link(example, 'this one')}.{' '}
        {earlier !== null && (
          <>
            You were asked about {link(earlier, 'that message')} then, about {link(message, 'this one')} now.
          </>
        )}
      </p>
      <p>
        Let this answer speak for fewer messages, or{' '}
        <TextButton
          disabled={busy}
          onClick={() => act(() => call(`/api/audits/${auditId}/plan/answers/${id}`, 'DELETE'))}
        >
          take back the earlier one
        </TextButton>
        .
      </p>
    </div>
  );
}
