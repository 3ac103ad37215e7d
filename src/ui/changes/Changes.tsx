'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ChangeLine, ChangesView, Comparison } from '../../server/views/changes';
import { call, tell } from '../common/api';
import { formatDay, formatMoment, formatNumber, formatPart } from '../common/format';
import classes from './Changes.module.css';

/** The draft against what was brought in: which messages end elsewhere, and the history of changes. */
export function Changes({ auditId, view }: { auditId: string; view: ChangesView }) {
  const { comparison, history } = view;
  return (
    <div className={classes.page}>
      <section className={classes.effect}>
        <Verdict comparison={comparison} auditId={auditId} changes={history.filter(({ undone }) => !undone).length} />
        {comparison && comparison.changed > 0 && <Moved auditId={auditId} comparison={comparison} />}
      </section>
      <History auditId={auditId} history={history} />
    </div>
  );
}

function Verdict({
  comparison,
  auditId,
  changes,
}: {
  comparison: Comparison | null;
  auditId: string;
  changes: number;
}) {
  if (changes === 0) {
    return (
      <>
        <h1 className={classes.verdict}>Nothing has been changed</h1>
        <p>
          The draft is the chain as it was brought in. Changes are tried in the{' '}
          <Link href={`/audits/${auditId}/chain`}>Chain</Link> or on a{' '}
          <Link href={`/audits/${auditId}/findings`}>finding</Link>.
        </p>
      </>
    );
  }
  if (!comparison) return <h1 className={classes.verdict}>The draft is still being simulated</h1>;
  if (comparison.changed === 0) {
    return <h1 className={classes.verdict}>No stored message ends elsewhere than before</h1>;
  }
  return (
    <h1 className={classes.verdict}>
      <Link href={`/audits/${auditId}/mail?changed=1`}>{formatPart(comparison.changed, comparison.total)}</Link>{' '}
      messages end elsewhere than before
    </h1>
  );
}

function Moved({ auditId, comparison }: { auditId: string; comparison: Comparison }) {
  return (
    <>
      <table className={classes.moves}>
        <thead>
          <tr>
            <th>Messages</th>
            <th>As brought in</th>
            <th>By the draft</th>
          </tr>
        </thead>
        <tbody>
          {comparison.moves.map(({ from, to, count }) => (
            <tr key={`${from} > ${to}`}>
              <td>{formatNumber(count)}</td>
              <td>{from}</td>
              <td>{to}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 className={classes.heading}>
        Each message
        {comparison.rows.length < comparison.changed && `, the newest ${formatNumber(comparison.rows.length)}`}
      </h2>
      <table className={classes.moves}>
        <tbody>
          {comparison.rows.map((row) => (
            <tr key={row.number}>
              <td>{formatDay(row.date)}</td>
              <td>
                <Link href={`/audits/${auditId}/mail/${row.number}`} dir="auto">
                  {row.subject || '(no subject)'}
                </Link>
                <span className={classes.from}> {row.from}</span>
              </td>
              <td>
                {row.before} → <strong>{row.after}</strong>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function History({ auditId, history }: { auditId: string; history: readonly ChangeLine[] }) {
  const router = useRouter();
  const [busy, setBusy] = useState(false);
  const post = async (path: 'undo' | 'redo') => {
    setBusy(true);
    try {
      await call(`/api/audits/${auditId}/${path}`, 'POST');
      router.refresh();
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <aside className={classes.history} aria-label="History">
      <div className={classes.historyHead}>
        <h2 className={classes.heading}>History</h2>
        <Button
          size="compact-sm"
          variant="default"
          disabled={busy || !history.some(({ undone }) => !undone)}
          onClick={() => post('undo')}
        >
          Undo
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          disabled={busy || !history.some(({ undone }) => undone)}
          onClick={() => post('redo')}
        >
          Redo
        </Button>
      </div>
      {history.length === 0 && <p className={classes.from}>No change has been made.</p>}
      <ol className={classes.lines}>
        {[...history].reverse().map((change) => (
          <li key={change.id} data-undone={change.undone || undefined}>
            <strong>{change.words}</strong>
            {change.why && <p>Why: {change.why}</p>}
            <p className={classes.from}>
              {formatMoment(change.createdAt)} · {formatNumber(change.changedMessages)} messages
              {change.undone && ' · undone'}
            </p>
          </li>
        ))}
      </ol>
    </aside>
  );
}
