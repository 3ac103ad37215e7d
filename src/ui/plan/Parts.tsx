'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { type ReactNode, useState } from 'react';
import { assuming } from '../../core/audit/wording';
import type { AnswerLine, BesideLine, PlanView, StepLine, TidyShown } from '../../server/plan/view';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { formatNumber } from '../common/format';
import { Quoted } from '../common/Quoted';
import { TextButton } from '../common/TextButton';
import classes from './Plan.module.css';

interface PartProps {
  readonly auditId: string;
  /** The key of the step that is open. */
  readonly open: string | null;
}

/** Changes that alter the fate of no message. */
export function Tidy({ auditId, tidy, open }: PartProps & { readonly tidy: TidyShown | null }) {
  if (!tidy) {
    return (
      <section className={classes.part} aria-label="Tidy">
        <h2>Tidy</h2>
        <p className={classes.soft}>Looking for what adds nothing.</p>
      </section>
    );
  }
  const { steps, assumes, before, after } = tidy;
  const sizes = (['rules', 'tests', 'keys'] as const)
    .filter((unit) => before[unit] !== after[unit])
    .map((unit) => `${formatNumber(before[unit])} → ${formatNumber(after[unit])} ${unit}`);
  return (
    <section className={classes.part} aria-label="Tidy">
      <PartHead auditId={auditId} name="Tidy" steps={steps} />
      <p className={classes.soft}>
        {steps.length === 0
          ? 'No part of the rules is superfluous.'
          : `${assuming('Proved: no message is treated differently', assumes)}. ${sizes.join(', ')}`}
      </p>
      <Steps auditId={auditId} steps={steps} open={open} />
    </section>
  );
}

/** Changes that the user's own filing agrees with. */
export function Mend({ auditId, steps, open }: PartProps & { readonly steps: readonly StepLine[] }) {
  return (
    <section className={classes.part} aria-label="Mend">
      <PartHead auditId={auditId} name="Mend" steps={steps} />
      <p className={classes.soft}>
        {steps.length === 0
          ? 'No change is clear from where you keep your mail.'
          : 'Where you keep your mail agrees with each of these.'}
      </p>
      <Steps auditId={auditId} steps={steps} open={open} />
    </section>
  );
}

interface QuestionsProps extends PartProps {
  readonly view: PlanView;
  /** The message, or the key of the made-up one, of the question that is shown. */
  readonly current: string | null;
}

/** What only the user can say, and what they have said. */
export function OpenQuestions({ auditId, view, open, current }: QuestionsProps) {
  const { plan, answers, beside, skipped } = view;
  const { questions = [], made = [] } = plan ?? {};
  const steps = answers.flatMap((answer) => answer.steps);
  return (
    <section className={classes.part} aria-label="Questions">
      <PartHead auditId={auditId} name="Questions" steps={steps} />
      <p className={classes.soft}>
        {questions.length + made.length === 0
          ? 'Nothing more needs to be asked.'
          : 'Only you can say where these messages belong. The first ones settle most.'}
        {skipped > 0 && ` ${formatNumber(skipped)} skipped.`}
      </p>
      <ol className={classes.steps}>
        {answers.map((answer) => (
          <Answered key={answer.id} auditId={auditId} answer={answer} open={open} />
        ))}
        {beside.map((line) => (
          <Beside key={line.id} auditId={auditId} line={line} />
        ))}
        {questions.map(({ message, subject, sender, findings }) => (
          <Line
            key={message}
            href={`/audits/${auditId}/plan?question=${message}`}
            isOpen={String(message) === current}
            effect={findingsWord(findings.length)}
          >
            <bdi>{subject || '(no subject)'}</bdi> <span className={classes.soft}>{sender}</span>
          </Line>
        ))}
        {made.map(({ key, sender }) => (
          <Line key={key} href={`/audits/${auditId}/plan?question=${key}`} isOpen={key === current} effect="example">
            Mail to come, such as from <span className={classes.soft}>{sender}</span>
          </Line>
        ))}
      </ol>
    </section>
  );
}

/** An answer with the changes that give it. */
function Answered({ auditId, answer, open }: { auditId: string; answer: AnswerLine; open: string | null }) {
  const { act, busy } = useAct();
  const { id, words, steps, isUnmet, message } = answer;
  return (
    <li className={classes.answered}>
      <p>
        ✓ <Link href={`/audits/${auditId}/mail/${message}`}>{words}</Link>{' '}
        <TextButton
          disabled={busy}
          aria-label={`take back: ${words}`}
          onClick={() => act(() => call(`/api/audits/${auditId}/plan/answers/${id}`, 'DELETE'))}
        >
          take back
        </TextButton>
      </p>
      {isUnmet && (
        <p className={classes.unmet}>
          No change of up to three steps does this without breaking another answer or expectation. Edit the rules by
          hand, or take this answer back.
        </p>
      )}
      <Steps auditId={auditId} steps={steps} open={open} />
    </li>
  );
}

/** What is expected of a message that is not stored. */
function Beside({ auditId, line: { id, name, expected } }: { auditId: string; line: BesideLine }) {
  const { act, busy } = useAct();
  return (
    <li className={classes.answered}>
      <p>
        ✓{' '}
        <Link href={`/audits/${auditId}/probes`}>
          <bdi>{name}</bdi>
        </Link>
        : {expected}{' '}
        <TextButton
          disabled={busy}
          aria-label={`take back: ${name}`}
          onClick={() => act(() => call(`/api/audits/${auditId}/probes/${id}`, 'DELETE'))}
        >
          take back
        </TextButton>
      </p>
    </li>
  );
}

function PartHead({ auditId, name, steps }: { auditId: string; name: string; steps: readonly StepLine[] }) {
  const { act, busy } = useAct();
  const keys = steps.map(({ key }) => key);
  return (
    <div className={classes.partHead}>
      <h2>{name}</h2>
      {steps.length > 0 && (
        <Button
          size="compact-sm"
          variant="default"
          loading={busy}
          onClick={() => act(() => call(`/api/audits/${auditId}/plan/take`, 'POST', { steps: keys }))}
        >
          {steps.length === 1 ? 'Apply this change' : `Apply all ${formatNumber(steps.length)} changes`}
        </Button>
      )}
    </div>
  );
}

/** Steps of a part that are shown at first, unless there are only a few more. */
const SHOWN = 5;
const A_FEW = 2;

function Steps({ auditId, steps, open }: PartProps & { readonly steps: readonly StepLine[] }) {
  const [isAll, setAll] = useState(false);
  if (steps.length === 0) return null;
  const isShort = steps.length <= SHOWN + A_FEW;
  const isOpen = isAll || isShort || steps.slice(SHOWN).some(({ key }) => key === open);
  return (
    <>
      <ol className={classes.steps}>
        {(isOpen ? steps : steps.slice(0, SHOWN)).map((step) => (
          <Step key={step.key} auditId={auditId} step={step} isOpen={step.key === open} />
        ))}
      </ol>
      {!isShort && (
        <p className={classes.more}>
          <TextButton onClick={() => setAll(!isOpen)} aria-expanded={isOpen}>
            {isOpen ? 'Show fewer' : `Show all ${formatNumber(steps.length)}`}
          </TextButton>
        </p>
      )}
    </>
  );
}

interface StepProps {
  readonly auditId: string;
  readonly step: StepLine;
  readonly isOpen: boolean;
}

function Step({ auditId, step: { key, title, messages, ends }, isOpen }: StepProps) {
  const effects = [
    ...(messages > 0 ? [`moves ${formatNumber(messages)}`] : []),
    ...(ends ? [`resolves ${formatNumber(ends)}`] : []),
  ];
  return (
    <Line href={`/audits/${auditId}/plan?step=${key}`} isOpen={isOpen} effect={effects.join(', ')}>
      <Quoted>{title}</Quoted>
    </Line>
  );
}

interface LineProps {
  readonly href: string;
  readonly isOpen: boolean;
  readonly effect: string;
  readonly children: ReactNode;
}

/** A step or a question in one line, with its effect. */
function Line({ href, isOpen, effect, children }: LineProps) {
  return (
    <li>
      <Link href={href} className={classes.step} aria-current={isOpen ? 'true' : undefined} scroll={false}>
        <span className={classes.title}>{children}</span>
        <span className={classes.effect}>{effect}</span>
      </Link>
    </li>
  );
}

const findingsWord = (count: number): string =>
  count === 0 ? '' : `settles ${formatNumber(count)} ${count === 1 ? 'finding' : 'findings'}`;
