'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { canonicalDestination, type Destination, destinationKey } from '../../core/fates/destination';
import type { MessageView } from '../../server/mail/message-view';
import type { OptionLine, PlanView } from '../../server/plan/view';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { formatDay, formatNumber, messagesWord } from '../common/format';
import { Quoted } from '../common/Quoted';
import { Body, Fields } from '../message/Text';
import { Answering } from './Answering';
import { Elsewhere } from './Elsewhere';
import { Options } from './Options';
import type { Asked } from './Plan';
import classes from './Plan.module.css';
import { useKeys } from './useKeys';

interface Props {
  readonly auditId: string;
  readonly view: PlanView;
  readonly question: Asked;
}

/** One message of which only the user can say where it belongs, and what each answer would do. */
export function Question({ auditId, view, question: { asked, message } }: Props) {
  const router = useRouter();
  const { act, busy } = useAct();
  const [wanted, want] = useState<Destination | null>(null);
  const [isElsewhere, setElsewhere] = useState(false);
  const { options, findings } = asked;
  const questions = view.plan?.questions ?? [];
  const at = questions.findIndex((one) => one.message === asked.message);
  const next = questions[at + 1] ?? questions[at - 1];
  const goOn = () =>
    router.replace(next ? `/audits/${auditId}/plan?question=${next.message}` : `/audits/${auditId}/plan`);
  const skip = async () => {
    const said = { kind: 'question', what: asked.message };
    if (await act(() => call(`/api/audits/${auditId}/plan/declined`, 'POST', said))) goOn();
  };
  const last = view.answers.at(-1);
  const undo = () => last && act(() => call(`/api/audits/${auditId}/plan/answers/${last.id}`, 'DELETE'));
  const choose = (option: OptionLine) => {
    setElsewhere(false);
    want(option.destination);
  };
  const { region, onKey } = useKeys({
    choose: (index) => options[index] && choose(options[index]),
    commands: { e: () => setElsewhere(true), s: skip, u: undo },
  });
  const chosen = wanted && destinationKey(canonicalDestination(wanted));
  return (
    <article ref={region} className={classes.detail} aria-label="Question" tabIndex={0} onKeyDown={onKey}>
      <p className={classes.soft}>
        Question {formatNumber(at + 1)} of {formatNumber(questions.length)}: where does this message belong?
      </p>
      <Shown auditId={auditId} message={message} />
      <Options options={options} chosen={chosen} choose={choose} effectOf={effectWords} />
      <div className={classes.others}>
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => setElsewhere(!isElsewhere)}
          aria-expanded={isElsewhere}
        >
          <kbd>e</kbd>&nbsp;Somewhere else…
        </Button>
        <Button size="compact-sm" variant="subtle" onClick={skip} disabled={busy}>
          <kbd>s</kbd>&nbsp;Skip
        </Button>
        {last && (
          <Button size="compact-sm" variant="subtle" onClick={undo} disabled={busy}>
            <kbd>u</kbd>&nbsp;Undo the last answer
          </Button>
        )}
        {findings.length > 0 && (
          <details className={classes.settled}>
            <summary>
              Any answer settles {formatNumber(findings.length)} {findings.length === 1 ? 'finding' : 'findings'}
            </summary>
            <ul>
              {findings.map(({ key, claim }) => (
                <li key={key}>
                  <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(key)}`}>
                    <Quoted>{claim}</Quoted>
                  </Link>
                </li>
              ))}
            </ul>
          </details>
        )}
      </div>
      {isElsewhere && <Elsewhere folders={view.folders} onWanted={want} />}
      {wanted && (
        <Answering
          key={chosen}
          auditId={auditId}
          message={asked.message}
          subject={asked.subject}
          destination={wanted}
          onKept={goOn}
        />
      )}
    </article>
  );
}

function effectWords({ asNow, title, messages, findings }: OptionLine): string {
  const count = `${formatNumber(findings)} ${findings === 1 ? 'finding' : 'findings'}`;
  if (asNow) {
    const meant = findings > 0 ? ` ${count} ${findings === 1 ? 'is' : 'are'} then taken to be meant.` : '';
    return `No rule changes for ${messagesWord(messages)} like it.${meant}`;
  }
  if (title === '') return 'You keep it there. Which rule changes is worked out from your answer.';
  return `${title}: ${messagesWord(messages)} like it${findings > 0 ? `, ${count}` : ''}.`;
}

const FIELDS = ['from', 'to', 'cc', 'list-id'];

/** The message, with the words that made rules match it. */
function Shown({ auditId, message }: { auditId: string; message: MessageView }) {
  const subject = message.fields.find(({ name }) => name.toLowerCase() === 'subject')?.value;
  const fields = message.fields.filter(
    ({ name, marks }) => name.toLowerCase() !== 'date' && (marks.length > 0 || FIELDS.includes(name.toLowerCase())),
  );
  const acting = message.entries.filter(({ outcome }) => outcome === 'fired');
  return (
    <>
      <h1 className={classes.subject} dir="auto">
        <Link href={`/audits/${auditId}/mail/${message.number}`}>{subject || '(no subject)'}</Link>
      </h1>
      <p className={classes.soft}>
        {message.received !== null && `${formatDay(message.received)}, `}is in {message.folders.join(', ')}.{' '}
        {acting.length === 0
          ? 'No rule acts on it.'
          : acting.map(({ id, number, name }, at) => (
              <span key={id}>
                {at === 0 ? 'Acted on by ' : ', '}
                <Link href={`/audits/${auditId}/chain#${id}`}>
                  {number} <bdi>{name}</bdi>
                </Link>
              </span>
            ))}
      </p>
      <div className={classes.letter}>
        <Fields fields={fields} />
        <Body body={message.body} />
      </div>
    </>
  );
}
