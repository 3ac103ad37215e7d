'use client';

import Link from 'next/link';
import type { GateView } from '../../server/handover/gate';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { formatMoment, formatNumber, formatPart } from '../common/format';
import { Quoted } from '../common/Quoted';
import { ReasonForm } from '../common/ReasonForm';
import { TextButton } from '../common/TextButton';
import classes from './Export.module.css';

/** Expectations, probes and grave findings: what must be in order before the export. */
export function Gate({ auditId, gate }: { auditId: string; gate: GateView }) {
  const { expectations, probes, grave, reasons, override } = gate;
  const failing = expectations.filter(({ isMet }) => !isMet);
  const unmet = probes.filter(({ isMet }) => !isMet);
  return (
    <section aria-label="Before the export">
      <h2 className={classes.heading}>Before the export</h2>
      <ul className={classes.checks}>
        <li>
          <Link href={`/audits/${auditId}/expectations`}>Expectations</Link>:{' '}
          {expectations.length === 0
            ? 'none'
            : `${formatPart(expectations.length - failing.length, expectations.length)} are met`}
          {failing.length > 0 && (
            <ul>
              {failing.map(({ id, words, broken, probes: failed }) => (
                <li key={id}>
                  <Quoted>{words}</Quoted>:{' '}
                  {broken !== null && broken > 0 && (
                    <Link href={`/audits/${auditId}/mail?breaks=${id}`}>
                      {formatNumber(broken)} stored {broken === 1 ? 'message does' : 'messages do'} not
                    </Link>
                  )}
                  {failed.length > 0 && ` probes that do not: ${failed.join(', ')}`}
                </li>
              ))}
            </ul>
          )}
        </li>
        <li>
          <Link href={`/audits/${auditId}/probes`}>Probes</Link>:{' '}
          {probes.length === 0 ? 'none' : `${formatPart(probes.length - unmet.length, probes.length)} as expected`}
          {unmet.length > 0 && (
            <ul>
              {unmet.map(({ id, name, line, expected }) => (
                <li key={id}>
                  <bdi>{name}</bdi>: {line}, expected {expected}
                </li>
              ))}
            </ul>
          )}
        </li>
        <li>
          Findings of lost or leaked mail:{' '}
          {grave.length === 0 ? 'none open' : `${formatNumber(grave.length)} neither repaired nor set aside`}
          {grave.length > 0 && (
            <ul>
              {grave.slice(0, SHOWN).map(({ key, claim }) => (
                <li key={key}>
                  <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(key)}`}>
                    <Quoted>{claim}</Quoted>
                  </Link>
                </li>
              ))}
              {grave.length > SHOWN && <li>and {formatNumber(grave.length - SHOWN)} more</li>}
            </ul>
          )}
        </li>
      </ul>
      {reasons.length > 0 && override === null && <Override auditId={auditId} />}
      {override && <Overridden auditId={auditId} override={override} />}
    </section>
  );
}

const SHOWN = 5;

function Override({ auditId }: { auditId: string }) {
  return (
    <ReasonForm
      label="Export all the same, because"
      why="Enter the reason."
      onReason={(reason) => call(`/api/audits/${auditId}/gate`, 'PUT', { reason })}
    >
      Allow the export
    </ReasonForm>
  );
}

function Overridden({ auditId, override }: { auditId: string; override: NonNullable<GateView['override']> }) {
  const { act, busy } = useAct();
  return (
    <p>
      The export is allowed since {formatMoment(override.createdAt)}, because: {override.reason}{' '}
      <TextButton disabled={busy} onClick={() => act(() => call(`/api/audits/${auditId}/gate`, 'DELETE'))}>
        hold it back again
      </TextButton>
    </p>
  );
}
