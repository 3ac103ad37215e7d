'use client';

import { Button, Loader } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { z } from 'zod';
import type { Edit } from '../../core/rules/edit';
import type { Broken } from '../../server/changes/expectations';
import { call, tell } from './api';
import classes from './ChangePreview.module.css';
import { Foresight } from './Foresight';
import { formatDay, formatNumber, formatPart } from './format';
import { jobEnded } from './jobEnded';
import { MaybeLink } from './MaybeLink';
import { trialPath } from './mailPaths';
import { Stopped } from './Stopped';

const previewShape = z.object({
  words: z.string(),
  comparison: z
    .object({
      changed: z.number(),
      total: z.number(),
      moves: z.array(z.object({ from: z.string(), to: z.string(), count: z.number() })),
      rows: z.array(
        z.object({
          number: z.number(),
          subject: z.string(),
          from: z.string(),
          date: z.number().nullable(),
          before: z.string(),
          after: z.string(),
        }),
      ),
    })
    .nullable(),
  broken: z.custom<readonly Broken[]>(Array.isArray),
  /** The job that works the effect out, where it is not known yet. */
  weighing: z.string().nullable(),
});

type PreviewData = z.infer<typeof previewShape>;

interface Props {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  readonly why: string;
  /** What is said of the change, where the edits do not say it themselves. */
  readonly words?: string;
  readonly onDone: () => void;
  /** Called instead of `onDone` when the change was made. */
  readonly onMade?: () => void;
}

const SHOWN_ROWS = 6;

/** A change that is not made yet, with the messages whose fate it would change. */
export function ChangePreview({ auditId, edits, why, words, onDone, onMade = onDone }: Props) {
  const router = useRouter();
  const [preview, setPreview] = useState<PreviewData | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const [saving, setSaving] = useState(false);
  /** What only reasoning shows is known later. */
  const [late, setLate] = useState<readonly Broken[]>([]);
  const wanted = JSON.stringify(edits);
  useEffect(() => {
    let current = true;
    setPreview(null);
    setLate([]);
    setFailure(null);
    weigh(auditId, wanted, () => current)
      .then((answer) => current && setPreview(answer))
      .catch((error: Error) => current && setFailure(error.message));
    return () => {
      current = false;
    };
  }, [auditId, wanted]);
  const make = async () => {
    setSaving(true);
    try {
      await call(`/api/audits/${auditId}/edits`, 'POST', { edits, why, ...(words ? { words } : {}) });
      router.refresh();
      onMade();
    } catch (error) {
      tell(error);
    } finally {
      setSaving(false);
    }
  };
  const broken = late.length > 0 ? late : (preview?.broken ?? []);
  return (
    <section className={classes.preview} aria-live="polite" aria-label="Effect of the change">
      {failure && <p className={classes.failure}>{failure}</p>}
      {!failure && !preview && <Loader size="xs" type="dots" />}
      {preview && <Effect auditId={auditId} edits={edits} preview={words ? { ...preview, words } : preview} />}
      {broken.length > 0 && <Stopped auditId={auditId} broken={broken} />}
      {preview?.comparison && <Foresight auditId={auditId} edits={edits} onBroken={setLate} />}
      <div className={classes.buttons}>
        <Button size="compact-sm" onClick={make} loading={saving} disabled={!preview || broken.length > 0}>
          Make this change
        </Button>
        <Button size="compact-sm" variant="subtle" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </section>
  );
}

/** Asks for the effect of edits, and waits where it has to be worked out first. */
async function weigh(auditId: string, edits: string, isWanted: () => boolean): Promise<PreviewData> {
  for (;;) {
    const answer = await call(`/api/audits/${auditId}/preview`, 'POST', { edits: JSON.parse(edits) });
    const preview = previewShape.parse(answer);
    if (!preview.weighing || !isWanted()) return preview;
    await jobEnded(preview.weighing, isWanted, 'The effect of this change');
  }
}

interface EffectProps {
  readonly auditId: string;
  readonly edits: readonly Edit[];
  readonly preview: PreviewData;
}

function Effect({ auditId, edits, preview }: EffectProps) {
  const { words, comparison } = preview;
  if (!comparison) return <p>{words}. Its effect is not known before the chain is simulated.</p>;
  const { changed, total, moves, rows } = comparison;
  return (
    <>
      <p className={classes.words}>{words}</p>
      <p className={classes.count}>
        {changed === 0 ? (
          'No stored message changes its fate'
        ) : (
          <>
            <MaybeLink path={trialPath(auditId, edits)}>{formatPart(changed, total)}</MaybeLink> messages change their
            fate
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
      {moves.length > 5 && <p>and {formatNumber(moves.length - 5)} more ways</p>}
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
