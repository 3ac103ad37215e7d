'use client';

import { Button, Loader } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { Broken } from '../../server/changes/expectations';
import type { PreviewView } from '../../server/changes/view';
import { previewAnswer } from '../../server/http/answers';
import { useAct, useAsked, workedOut } from './answers';
import { call } from './api';
import classes from './ChangePreview.module.css';
import { Foresight } from './Foresight';
import { formatDay, formatNumber, formatPart } from './format';
import { MaybeLink } from './MaybeLink';
import { trialPath } from './mailPaths';
import { Quoted } from './Quoted';
import { Stopped } from './Stopped';
import { TextDifferences } from './TextDifferences';
import { WhyButton } from './WhyButton';

interface Props {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  readonly why: string;
  /** The description of the change, if its edits do not describe themselves. */
  readonly words?: string;
  /** Whether the page shows this description already. */
  readonly isTitled?: boolean;
  readonly onDone: () => void;
  /** The id of the earlier change that it undoes. */
  readonly undoes?: number;
  /** Applies the change, if that is more than an edit of the chain. */
  readonly apply?: () => Promise<unknown>;
  /** Called instead of `onDone` when the change was made. */
  readonly onMade?: () => void;
}

/** Previews a change: the messages whose fate it would change. */
export function ChangePreview({
  auditId,
  edits,
  why,
  words,
  isTitled = false,
  undoes,
  apply,
  onDone,
  onMade = onDone,
}: Props) {
  const { act, busy } = useAct();
  /** What only a proof shows arrives later. */
  const [late, setLate] = useState<{ of: string; broken: readonly Broken[] } | null>(null);
  const wanted = JSON.stringify(edits);
  const { answer: preview, failure } = useAsked(['preview', auditId, wanted], (signal) =>
    workedOut({
      ask: async () => previewAnswer.parse(await call(`/api/audits/${auditId}/preview`, 'POST', { edits }, signal)),
      jobOf: ({ weighing }) => weighing,
      what: 'The effect of this change',
      signal,
      cancels: false,
    }),
  );
  const make = async () => {
    const change = { edits, why, ...(words ? { words } : {}), undoes };
    const post = apply ?? (() => call(`/api/audits/${auditId}/edits`, 'POST', change));
    if (await act(post)) onMade();
  };
  const known = late?.of === wanted ? late.broken : [];
  const broken = known.length > 0 ? known : (preview?.broken ?? []);
  return (
    <section className={classes.preview} aria-live="polite" aria-label="Effect of the change">
      {failure && <p className={classes.failure}>{failure}</p>}
      {!failure && !preview && <Loader size="xs" type="dots" />}
      {preview && (
        <ChangeEffect
          auditId={auditId}
          edits={edits}
          preview={preview}
          words={isTitled ? null : (words ?? preview.words)}
        />
      )}
      {preview?.texts && <TextDifferences texts={preview.texts} names={['now', 'after']} />}
      {broken.length > 0 && <Stopped auditId={auditId} broken={broken} />}
      {preview?.comparison && (
        <Foresight auditId={auditId} edits={edits} onBroken={(broken) => setLate({ of: wanted, broken })} />
      )}
      <div className={classes.buttons}>
        <WhyButton
          size="compact-sm"
          onClick={make}
          loading={busy}
          why={
            !preview
              ? 'The effect is being worked out.'
              : broken.length > 0
                ? 'It would break the expectations above.'
                : null
          }
        >
          Apply
        </WhyButton>
        <Button size="compact-sm" variant="subtle" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </section>
  );
}

const SHOWN_ROWS = 6;

interface EffectProps {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  readonly preview: PreviewView;
  readonly words: string | null;
}

/** The stored messages that a change would treat differently. */
function ChangeEffect({ auditId, edits, preview: { comparison }, words }: EffectProps) {
  if (!comparison) return <p>{words !== null && `${words}. `}The effect is known once the chain is simulated.</p>;
  const { changed, total, moves, rows } = comparison;
  return (
    <>
      {words !== null && (
        <p className={classes.words}>
          <Quoted>{words}</Quoted>
        </p>
      )}
      <p className={classes.count}>
        {changed === 0 ? (
          'No stored message has a different destination'
        ) : (
          <>
            <MaybeLink path={trialPath(auditId, edits)}>{formatPart(changed, total)}</MaybeLink> messages{' '}
            {changed === 1 ? 'has' : 'have'} a different destination
          </>
        )}
      </p>
      <table className={classes.moves}>
        <tbody>
          {moves.slice(0, 5).map(({ from, to, count }) => (
            <tr key={`${from} > ${to}`}>
              <td>
                <MaybeLink path={trialPath(auditId, edits, { was: from, becomes: to, flags: '1' })}>
                  {formatNumber(count)}
                </MaybeLink>
              </td>
              <td>
                {from} → <strong>{to}</strong>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {moves.length > 5 && <p>and {formatNumber(moves.length - 5)} more pairs of destinations</p>}
      <ul className={classes.rows}>
        {rows.slice(0, SHOWN_ROWS).map((row) => (
          <li key={row.number}>
            <Link href={`/audits/${auditId}/mail/${row.number}`}>{row.subject || '(no subject)'}</Link>
            <span>
              {row.from}, {formatDay(row.date)}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
