'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { plannedAnswer } from '../../server/http/answers';
import type { MessageView } from '../../server/mail/message-view';
import type { MadeLine, PlanView, QuestionLine, StepLine } from '../../server/plan/view';
import { call, tell } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { NoRules, Notice } from '../common/Notice';
import { TextButton } from '../common/TextButton';
import { Tabs } from '../findings/Filters';
import { Done, LeftOut } from './Done';
import { MadeQuestion } from './MadeQuestion';
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
  /** A question about a message that is not stored, in its place. */
  readonly made: MadeLine | null;
}

/** What to do with the rules, in order: what is proved to change nothing, what the own filing agrees with, what only the user knows. */
export function Plan({ auditId, view, step, question, made }: Props) {
  const { isStuck, retry } = useAwaiting(auditId, view);
  if (!view.ruled) {
    return (
      <NoRules auditId={auditId}>
        The plan lists the changes that repair your rules, in order, and asks what only you can know.
      </NoRules>
    );
  }
  const { plan } = view;
  if (!plan) {
    return (
      <div className={classes.waiting}>
        <Tabs auditId={auditId} current="plan" />
        <h1 className={classes.head}>The plan is being worked out</h1>
        <p className={classes.held}>
          {view.audited
            ? 'Changes to the rules are being tried on your mail. Progress is shown below.'
            : 'The audit is running first. Progress is shown below.'}
        </p>
        {isStuck && <Stuck retry={retry} />}
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
        {isStuck && <Stuck retry={retry} />}
        <Tidy auditId={auditId} tidy={plan.tidy} open={step} />
        <Mend auditId={auditId} steps={plan.mend} open={step} />
        <OpenQuestions
          auditId={auditId}
          view={view}
          open={step}
          current={made?.key ?? question?.asked.message.toString() ?? null}
        />
        {view.held.length > 0 && (
          <p className={classes.held}>
            The script is held back: {view.held.join('; ')}. <Link href={`/audits/${auditId}/export`}>Export</Link>
          </p>
        )}
        <LeftOut auditId={auditId} left={view.left} />
        <Done auditId={auditId} done={view.done} />
      </section>
      {open ? (
        <StepDetail key={open.key} auditId={auditId} step={open} total={view.total} />
      ) : made ? (
        <MadeQuestion key={made.key} auditId={auditId} view={view} made={made} />
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
/** How often it is begun before that is left to the user. */
const TIMES = 3;

/** Has the plan worked out if needed, and shows each part as soon as it is known. */
function useAwaiting(auditId: string, { isAwaited, ruled }: PlanView): Awaiting {
  const router = useRouter();
  const [begun, setBegun] = useState(0);
  const isWaiting = ruled && isAwaited;
  const isStuck = begun >= TIMES;
  useEffect(() => {
    if (!isWaiting || isStuck) return;
    const look = async () => {
      const answer = await call(`/api/audits/${auditId}/plan`, 'POST');
      // Jobs of other kinds are waited for.
      if (plannedAnswer.parse(answer).job !== null) setBegun((times) => times + 1);
      router.refresh();
    };
    look().catch(tell);
    const clock = setInterval(() => look().catch(() => {}), LOOK);
    return () => clearInterval(clock);
  }, [auditId, isWaiting, isStuck, router]);
  useEffect(() => {
    if (!isWaiting) setBegun(0);
  }, [isWaiting]);
  return { isStuck: isWaiting && isStuck, retry: () => setBegun(0) };
}

interface Awaiting {
  /** Whether it was begun several times and not finished. */
  readonly isStuck: boolean;
  readonly retry: () => void;
}

function Stuck({ retry }: Pick<Awaiting, 'retry'>) {
  return (
    <p role="alert" className={classes.stuck}>
      The plan could not be worked out to the end; the reason is shown below.{' '}
      <TextButton onClick={retry}>Try again</TextButton>
    </p>
  );
}
