'use client';

import { useRouter } from 'next/navigation';
import { useEffect } from 'react';
import type { MessageView } from '../../server/mail/message-view';
import type { PlanView, QuestionLine, StepLine } from '../../server/plan/view';
import { call, tell } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { NoRules, Notice } from '../common/Notice';
import { Tabs } from '../findings/Filters';
import { Done, LeftOut } from './Done';
import { Mend, OpenQuestions, Tidy } from './Parts';
import classes from './Plan.module.css';
import { Question } from './Question';
import { StepDetail } from './StepDetail';

/** A question with the message it is about. */
export interface Asked {
  readonly asked: QuestionLine;
  readonly message: MessageView;
}

interface Props {
  readonly auditId: string;
  readonly view: PlanView;
  /** The key of the step that is open. */
  readonly step: string | null;
  readonly question: Asked | null;
}

/** What to do with the rules, in order: what is proved to change nothing, what the own filing agrees with, what only the user knows. */
export function Plan({ auditId, view, step, question }: Props) {
  useAwaiting(auditId, view);
  if (!view.ruled) return <NoRules auditId={auditId} title="No rules imported yet" />;
  const { plan } = view;
  if (!plan) {
    return (
      <div className={classes.waiting}>
        <Tabs auditId={auditId} current="plan" />
        <Notice title="The plan is being worked out">
          <p>
            {view.audited
              ? 'Changes to the rules are being tried on your mail. Progress is shown below.'
              : 'The audit is running first. Progress is shown below.'}
          </p>
        </Notice>
        <Done auditId={auditId} done={view.done} />
      </div>
    );
  }
  const steps = [...(plan.tidy?.steps ?? []), ...plan.mend, ...view.answers.flatMap((answer) => answer.steps)];
  const open = steps.find(({ key }) => key === step);
  return (
    <div className={classes.page}>
      <section className={classes.list} aria-label="Plan">
        <Tabs auditId={auditId} current="plan" />
        <Head view={view} steps={steps} />
        <Tidy auditId={auditId} tidy={plan.tidy} open={step} />
        <Mend auditId={auditId} steps={plan.mend} open={step} />
        <OpenQuestions auditId={auditId} view={view} open={step} current={question?.asked.message ?? null} />
        <LeftOut auditId={auditId} left={view.left} />
        <Done auditId={auditId} done={view.done} />
      </section>
      {open ? (
        <StepDetail key={open.key} auditId={auditId} step={open} total={view.total} />
      ) : question ? (
        <Question key={question.asked.message} auditId={auditId} view={view} question={question} />
      ) : (
        <Notice title={steps.length === 0 ? 'There is nothing to do' : 'No step selected'}>
          <p>
            {steps.length === 0
              ? 'No change is proposed, and nothing needs to be asked.'
              : 'Select a step to see what it changes.'}
          </p>
        </Notice>
      )}
    </div>
  );
}

function Head({ view, steps }: { readonly view: PlanView; readonly steps: readonly StepLine[] }) {
  const { plan, confirmed } = view;
  if (!plan) return null;
  const { ended, answered, settled, questions } = plan;
  const changes = `${formatNumber(steps.length)} ${steps.length === 1 ? 'change' : 'changes'}`;
  const asked = `${formatNumber(questions.length)} ${questions.length === 1 ? 'question' : 'questions'}`;
  const one = questions.length === 1;
  return (
    <h1 className={classes.head}>
      {ended === null ? (
        <>
          {changes} and {asked}; what they resolve is being counted.
        </>
      ) : (
        <>
          {changes} {steps.length === 1 ? 'resolves' : 'resolve'} {formatPart(ended, confirmed)} confirmed findings
          {answered > 0 && `; your answers settle ${formatNumber(answered)}`}
          {questions.length > 0 && `; ${asked} ${one ? 'settles' : 'settle'} ${formatNumber(settled)} more`}.
        </>
      )}
    </h1>
  );
}

/** Milliseconds between two looks at a plan that is being worked out. */
const LOOK = 700;

/** Starts working out the plan if needed, and shows each part as soon as it is known. */
function useAwaiting(auditId: string, { isAwaited, ruled }: PlanView): void {
  const router = useRouter();
  const isWaiting = ruled && isAwaited;
  useEffect(() => {
    if (!isWaiting) return;
    call(`/api/audits/${auditId}/plan`, 'POST').catch(tell);
    const clock = setInterval(() => router.refresh(), LOOK);
    return () => clearInterval(clock);
  }, [auditId, isWaiting, router]);
}
