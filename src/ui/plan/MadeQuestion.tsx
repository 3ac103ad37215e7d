'use client';

import { Button } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { destinationKey } from '../../core/fates/destination';
import type { MadeLine, PlanView } from '../../server/plan/view';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { WhyButton } from '../common/WhyButton';
import { destinationWords } from './destination-words';
import { Options } from './Options';
import classes from './Plan.module.css';
import { useKeys } from './useKeys';

interface Props {
  readonly auditId: string;
  readonly view: PlanView;
  readonly made: MadeLine;
}

/** A message that is not stored, where stored mail does not tell which of two changes is meant. */
export function MadeQuestion({
  auditId,
  view,
  made: { key, subject, sender, recipient, body, text, answer, options },
}: Props) {
  const router = useRouter();
  const { act, busy } = useAct();
  const [chosen, choose] = useState<(typeof options)[number] | null>(null);
  const all = view.plan?.made ?? [];
  const next = all[all.findIndex((one) => one.key === key) + 1];
  const goOn = () => router.replace(`/audits/${auditId}/plan${next ? `?question=${next.key}` : ''}`);
  const skip = async () => {
    const said = { kind: 'made', what: key };
    if (await act(() => call(`/api/audits/${auditId}/plan/declined`, 'POST', said))) goOn();
  };
  const save = async () => {
    if (!chosen) return;
    const probe = { name: `Answer about mail like that from ${sender}`.slice(0, 200), text, expected: chosen.line };
    if (await act(() => call(`/api/audits/${auditId}/probes`, 'POST', probe))) goOn();
  };
  const { region, onKey } = useKeys({
    choose: (index) => options[index] && choose(options[index]),
    commands: { s: skip },
  });
  return (
    <article ref={region} className={classes.detail} aria-label="Question" tabIndex={0} onKeyDown={onKey}>
      <p className={classes.soft}>
        No stored message tells which change you mean. Where would this example message belong?
      </p>
      <h1 className={classes.subject} dir="auto">
        {subject || '(no subject)'}
      </h1>
      <p className={classes.soft}>
        From <bdi>{sender}</bdi>
        {recipient !== '' && (
          <>
            {' '}
            to <bdi>{recipient}</bdi>
          </>
        )}
      </p>
      {body !== '' && <pre className={classes.letter}>{body}</pre>}
      <Options
        options={options}
        chosen={chosen && destinationKey(chosen.destination)}
        choose={choose}
        effectOf={({ title }) => (title === '' ? 'Neither of the two changes below is made.' : `${title}.`)}
      />
      {answer !== '' && <p className={classes.soft}>Either change gives your answer: {answer}.</p>}
      <div className={classes.others}>
        <WhyButton size="compact-sm" onClick={save} loading={busy} why={!chosen ? 'Choose an answer above.' : null}>
          Save this answer
        </WhyButton>
        <Button size="compact-sm" variant="subtle" onClick={skip} disabled={busy}>
          <kbd>s</kbd>&nbsp;Skip
        </Button>
      </div>
      {chosen && (
        <p className={classes.soft} aria-live="polite">
          The message is kept as a probe that must{' '}
          {chosen.line === '' ? 'go nowhere' : `go to ${destinationWords(chosen.destination)}`}.
        </p>
      )}
    </article>
  );
}
