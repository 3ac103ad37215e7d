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
import { VerdictWords } from './VerdictWords';

/** A chain is audited only once nothing was changed for so long, in milliseconds. */
const PAUSE = 800;
const SHOWN = 6;

interface Props {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  /** Told the expectations that it would break, once that is known for all possible messages. */
  readonly onBroken?: (broken: ForesightView['broken']) => void;
}

/** The findings that a change would end and bring, looked for while the change is looked at. */
export function Foresight({ auditId, edits, onBroken }: Props) {
  const wanted = JSON.stringify(edits);
  const isRested = useRested(wanted, PAUSE);
  const { answer, failure } = useAsked(isRested ? ['foresight', auditId, wanted] : null, (signal) =>
    workedOut({
      ask: async () => foresightAnswer.parse(await call(`/api/audits/${auditId}/foresight`, 'POST', { edits }, signal)),
      jobOf: ({ looking }) => looking,
      what: 'What it does to the findings',
      signal,
      // What is looked for in a chain that is no longer wanted serves nobody.
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
        Looking for findings that it would end or bring <Loader size="xs" type="dots" component="span" />
      </p>
    );
  }
  const none = view.ended.length + view.brought.length === 0;
  return (
    <>
      {view.verdict && (
        <VerdictWords
          verdict={view.verdict}
          yes="No message at all can be treated differently"
          no="Some message would be treated differently"
        />
      )}
      {none && <p className={classes.soft}>It neither ends nor brings a finding.</p>}
      <Lines title="Findings it would end" auditId={auditId} findings={view.ended} leads />
      <Lines title="Findings it would bring" auditId={auditId} findings={view.brought} />
      {view.passedOn > 0 && (
        <p className={classes.soft}>
          {formatNumber(view.passedOn)} would be said of another rule, about mail of which they are said now.
        </p>
      )}
    </>
  );
}

interface LinesProps {
  readonly title: string;
  readonly auditId: string;
  readonly findings: ForesightView['ended'];
  /** Whether they are stated now, so that they can be looked at. */
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
              <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(key)}`}>{claim}</Link>
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
