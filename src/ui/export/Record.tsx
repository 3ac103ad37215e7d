import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ExportView } from '../../server/handover/export-view';
import { saveFile, tell } from '../common/api';
import { formatMoment, formatNumber, formatPart } from '../common/format';
import { verify as verifyScript } from '../common/verify';
import classes from './Export.module.css';

/** Milliseconds without a change of the settings before a script is verified. */
const REST = 600;

/** Whether the script was verified, and what prevents the export. */
export function Record({ auditId, view }: { auditId: string; view: ExportView }) {
  const router = useRouter();
  const [state, setState] = useState<'rests' | 'asked' | 'failed'>('rests');
  const begun = useRef('');
  const isShown = useRef(true);
  const { verification, obstacles, gate } = view;
  const isHeld = gate.reasons.length > 0 && gate.override === null;
  const refresh = () => router.refresh();
  const { text } = view;
  const verify = useCallback(async () => {
    begun.current = text;
    setState('asked');
    try {
      await verifyScript(auditId, () => isShown.current);
      if (begun.current !== text) return;
      setState('rests');
      router.refresh();
    } catch (error) {
      // The verification of a script that has been replaced meanwhile is of no interest.
      if (begun.current !== text) return;
      setState('failed');
      tell(error);
    }
  }, [auditId, router, text]);
  useEffect(() => {
    isShown.current = true;
    return () => {
      isShown.current = false;
    };
  }, []);
  // Each script is verified once by itself; what fails is left to the user.
  useEffect(() => {
    if (verification || begun.current === text) return;
    const clock = setTimeout(() => void verify(), REST);
    return () => clearTimeout(clock);
  }, [verification, text, verify]);
  if (!verification) {
    const isFailed = state === 'failed';
    return (
      <>
        <h1 className={classes.verdict}>{isFailed ? 'Not verified' : 'The script is being verified'}</h1>
        <p>
          Verifying reads the script back, checks it, runs it on all {formatNumber(view.stored)} stored messages, all
          probes and all example messages, and compares it with the rules by proof. Only a verified script can be
          downloaded.
        </p>
        {isFailed && <Button onClick={verify}>Verify again</Button>}
      </>
    );
  }
  const { verified, messages, sameFate, changed, at, hash } = verification;
  const isReady = verified && obstacles.length === 0 && gate.isKnown && !isHeld;
  const Verdict = verified && isHeld ? 'p' : 'h1';
  return (
    <>
      {verified && isHeld && (
        <h1 className={classes.verdict} data-verified={false}>
          Held back: {gate.reasons.join('; ')}
        </h1>
      )}
      <Verdict className={classes.verdict} data-verified={verified}>
        {verified ? (isHeld ? 'Written as the rules are' : 'Verified') : 'Not equivalent'}:{' '}
        {formatPart(sameFate, messages)} messages have the same destination
        {changed > 0 && ', accepted differences aside'}
      </Verdict>
      {changed > 0 && (
        <p>
          Through the differences below,{' '}
          <Link href={`/audits/${auditId}/mail?costs=1`}>{formatPart(changed, messages)}</Link> stored messages have a
          different destination than under the rules.
        </p>
      )}
      <ul className={classes.checks}>
        {verification.checks.map((words) => (
          <li key={words}>{words}</li>
        ))}
        <li>
          Verified on {formatMoment(at)}; SHA-256 <span className="mono">{hash.slice(0, 16)}…</span>
        </li>
      </ul>
      {verification.differences.length > 0 && (
        <ul>
          {verification.differences.map(({ message }) => (
            <li key={message}>
              <Link href={`/audits/${auditId}/mail/${message}`}>message {formatNumber(message + 1)}</Link> has a
              different destination
            </li>
          ))}
        </ul>
      )}
      {obstacles.length > 0 && (
        <p className={classes.obstacles}>It cannot be downloaded yet: {obstacles.join('; ')}.</p>
      )}
      <div className={classes.buttons}>
        {isReady && (
          <Button onClick={() => saveFile(`/api/audits/${auditId}/script`, 'rules.sieve').then(refresh, tell)}>
            Download script
          </Button>
        )}
        {isReady && (
          <Button
            variant="default"
            onClick={() => saveFile(`/api/audits/${auditId}/xml`, 'rules.xml').then(refresh, tell)}
          >
            as XML
          </Button>
        )}
        {isReady && (
          <Button variant="default" component={Link} href={`/audits/${auditId}/server`}>
            Upload to a mail server
          </Button>
        )}
        <Button variant="default" onClick={verify} loading={state === 'asked'}>
          Verify again
        </Button>
      </div>
    </>
  );
}
