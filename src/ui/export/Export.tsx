'use client';

import { Button } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ExportView } from '../../server/views/export';
import { call, tell } from '../common/api';
import { formatMoment, formatNumber, formatPart } from '../common/format';
import { GatherLink } from '../common/GatherLink';
import { Notice } from '../common/Notice';
import classes from './Export.module.css';

/** The script that the draft stands for, and the record of its verification. */
export function Export({ auditId, view }: { auditId: string; view: ExportView }) {
  if (view.rules === 0 && view.leftOut.length === 0) {
    return (
      <Notice title="There is nothing to export yet">
        <GatherLink auditId={auditId} words="Bring in a Sieve script" />
      </Notice>
    );
  }
  return (
    <div className={classes.page}>
      <section className={classes.record}>
        <Record auditId={auditId} view={view} />
        <dl className={classes.facts}>
          <dt>Rules in the script</dt>
          <dd>{formatNumber(view.rules)}</dd>
          <dt>It requires</dt>
          <dd className="mono">{view.requires.length === 0 ? 'nothing' : view.requires.join(', ')}</dd>
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
        </dl>
      </section>
      <section className={classes.script} aria-label="The script" tabIndex={0}>
        <pre>{view.text}</pre>
      </section>
    </div>
  );
}

function Record({ auditId, view }: { auditId: string; view: ExportView }) {
  const router = useRouter();
  const [asked, setAsked] = useState(false);
  const { verification } = view;
  const verify = async () => {
    setAsked(true);
    try {
      await call(`/api/audits/${auditId}/jobs`, 'POST', { kind: 'verify' });
      router.refresh();
    } catch (error) {
      tell(error);
      setAsked(false);
    }
  };
  if (!verification) {
    return (
      <>
        <h1 className={classes.verdict}>Not verified yet</h1>
        <p>
          The script is read back, checked, and run on all {formatNumber(view.total)} stored messages; each must end
          where the rules put it. Only then can it be taken away.
        </p>
        <Button onClick={verify} loading={asked}>
          Verify the script
        </Button>
      </>
    );
  }
  const { verified, faults, messages, sameFate, differences, at, hash } = verification;
  return (
    <>
      <h1 className={classes.verdict} data-verified={verified}>
        {verified ? 'Verified' : 'Not the same'}: {formatPart(sameFate, messages)} messages have the same fate
      </h1>
      <p>
        {faults.length === 0 ? 'The checker finds no fault in it.' : `The checker finds ${faults.length} faults in it.`}{' '}
        Run on {formatMoment(at)}; SHA-256 <span className="mono">{hash.slice(0, 16)}…</span>
      </p>
      {differences.length > 0 && (
        <ul>
          {differences.map(({ message }) => (
            <li key={message}>message {message} ends elsewhere</li>
          ))}
        </ul>
      )}
      <div className={classes.buttons}>
        {verified && (
          <Button component="a" href={`/api/audits/${auditId}/script`} download="rules.sieve">
            Take the script away
          </Button>
        )}
        <Button variant="default" onClick={verify}>
          Verify again
        </Button>
      </div>
    </>
  );
}
