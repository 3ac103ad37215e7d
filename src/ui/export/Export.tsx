'use client';

import { useRouter } from 'next/navigation';
import type { HandoverSettings } from '../../server/handing-over';
import type { ExportView } from '../../server/views/export';
import { call, tell } from '../common/api';
import { formatBytes, formatMoment, formatNumber } from '../common/format';
import { GatherLink } from '../common/GatherLink';
import { Notice } from '../common/Notice';
import { Costs } from './Costs';
import classes from './Export.module.css';
import { ForWhom } from './ForWhom';
import { Record } from './Record';

export type HandoverChange = Partial<Omit<HandoverSettings, 'capabilities'>> & { readonly said?: string };

/** The script that the draft stands for, for a target: what it costs to say it so, and the record of its verification. */
export function Export({ auditId, view }: { auditId: string; view: ExportView }) {
  const router = useRouter();
  if (view.rules === 0 && view.leftOut.length === 0 && view.costs.length === 0) {
    return (
      <Notice title="There is nothing to export yet">
        <GatherLink auditId={auditId} words="Bring in a Sieve script" />
      </Notice>
    );
  }
  const set = async (change: HandoverChange) => {
    try {
      await call(`/api/audits/${auditId}/handover`, 'PUT', change);
      router.refresh();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <div className={classes.page}>
      <section className={classes.record} aria-label="The hand-over">
        <Record auditId={auditId} view={view} />
        <ForWhom view={view} onSet={set} />
        <Costs auditId={auditId} view={view} onSet={set} />
        <dl className={classes.facts}>
          <dt>Rules in the script</dt>
          <dd>
            {formatNumber(view.rules)}, in {formatBytes(view.octets)}
          </dd>
          <dt>It requires</dt>
          <dd className="mono">{view.requires.length === 0 ? 'nothing' : view.requires.join(', ')}</dd>
          {view.folders.length > 0 && (
            <>
              <dt>Folders that must be there</dt>
              <dd>{view.folders.join(', ')}</dd>
            </>
          )}
          {view.leftOut.length > 0 && (
            <>
              <dt>Not in it</dt>
              <dd>
                <ul className={classes.plain}>
                  {view.leftOut.map(({ name, reason }) => (
                    <li key={name}>
                      {name}: {reason}
                    </li>
                  ))}
                </ul>
              </dd>
            </>
          )}
          {view.handed.length > 0 && (
            <>
              <dt>Handed over before</dt>
              <dd>
                <ul className={classes.plain}>
                  {view.handed.map(({ id, place, createdAt, hash }) => (
                    <li key={id}>
                      <a href={`/api/audits/${auditId}/handed/${id}`}>{formatMoment(createdAt)}</a>, {place}, SHA-256{' '}
                      <span className="mono">{hash.slice(0, 12)}…</span>
                    </li>
                  ))}
                </ul>
              </dd>
            </>
          )}
        </dl>
      </section>
      <section className={classes.script} aria-label="The script" tabIndex={0}>
        <pre>{view.text}</pre>
      </section>
    </div>
  );
}
