'use client';

import { Loader } from '@mantine/core';
import Link from 'next/link';
import { useEffect, useRef } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { ForesightView } from '../../server/changes/foresight-view';
import { foresightAnswer } from '../../server/http/answers';
import { useAsked, useRested, workedOut } from './answers';
import { call } from './api';
import classes from './Foresight.module.css';
import { formatNumber } from './format';
import { Quoted } from './Quoted';
import { VerdictWords } from './VerdictWords';

/** Milliseconds without a change before a chain is audited. */
const PAUSE = 800;
const SHOWN = 6;

interface Props {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  /** Receives the expectations that it would break, once they are checked for all possible messages. */
  readonly onBroken?: (broken: ForesightView['broken']) => void;
}

/** Computes the findings a change would resolve and add, while it is previewed. */
export function Foresight({ auditId, edits, onBroken }: Props) {
  const wanted = JSON.stringify(edits);
  const isRested = useRested(wanted, PAUSE);
  const { answer, failure } = useAsked(isRested ? ['foresight', auditId, wanted] : null, (signal) =>
    workedOut({
      ask: async () => foresightAnswer.parse(await call(`/api/audits/${auditId}/foresight`, 'POST', { edits }, signal)),
      jobOf: ({ looking }) => looking,
      what: 'Effect on findings',
      signal,
      // A job for an abandoned preview is cancelled.
      cancels: true,
    }),
  );
  const view = answer?.foresight;
  const tell = useRef(onBroken);
  tell.current = onBroken;
  useEffect(() => {
    if (view) tell.current?.(view.broken);
  }, [view]);
  if (failure) return <p className={classes.soft}>{failure}</p>;
  if (!view) {
    return (
      <p className={classes.soft} aria-busy="true">
        Looking for findings that this change resolves or adds <Loader size="xs" type="dots" component="span" />
      </p>
    );
  }
  const none = view.ended.length + view.brought.length === 0;
  return (
    <>
      {view.verdict && (
        <VerdictWords
          verdict={view.verdict}
          yes="No message is treated differently"
          no="Some messages would be treated differently"
        />
      )}
      {none && <p className={classes.soft}>This change resolves no finding and adds none.</p>}
      <Lines title="Findings resolved" auditId={auditId} findings={view.ended} leads />
      <Lines title="Findings added" auditId={auditId} findings={view.brought} />
      {view.passedOn > 0 && (
        <p className={classes.soft}>
          {formatNumber(view.passedOn)} {view.passedOn === 1 ? 'finding' : 'findings'} would move to another rule, about
          the same mail.
        </p>
      )}
    </>
  );
}

interface LinesProps {
  readonly title: string;
  readonly auditId: string;
  readonly findings: ForesightView['ended'];
  /** Whether they are present findings, which can be opened. */
  readonly leads?: boolean;
}

function Lines({ title, auditId, findings, leads = false }: LinesProps) {
  if (findings.length === 0) return null;
  return (
    <section aria-label={title}>
      <h2 className={classes.heading}>
        {title}: {formatNumber(findings.length)}
      </h2>
      <ul className={classes.lines}>
        {findings.slice(0, SHOWN).map(({ key, claim }) => (
          <li key={key}>
            {leads ? (
              <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(key)}`}>
                <Quoted>{claim}</Quoted>
              </Link>
            ) : (
              claim
            )}
          </li>
        ))}
        {findings.length > SHOWN && <li>and {formatNumber(findings.length - SHOWN)} more</li>}
      </ul>
    </section>
  );
}
