'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { KINDS } from '../../core/audit/kind-words';
import { assumingWords } from '../../core/audit/wording';
import type { FindingView } from '../../server/findings/finding-view';
import { useAct } from '../common/answers';
import { call } from '../common/api';
import { Fate } from '../common/Fate';
import { formatDay, formatPart, neededClock } from '../common/format';
import { Quoted } from '../common/Quoted';
import { ReasonForm } from '../common/ReasonForm';
import classes from './Findings.module.css';
import { CERTAINTY_WORDS } from './finding-words';
import { PartsBar } from './PartsBar';
import { Repairs } from './Repairs';
import { RuleList } from './RuleList';

/** A finding: its claim, certainty, evidence and repairs. */
export function FindingDetail({ auditId, finding }: { auditId: string; finding: FindingView }) {
  return (
    <article className={classes.detail}>
      <p className={classes.detailKind}>
        <Link href={`/help#${finding.kind}`}>{KINDS[finding.kind].title}</Link>{' '}
        <span className="mono">{finding.kind}</span>
      </p>
      <h1 className={classes.detailClaim}>
        <Quoted>{finding.claim}</Quoted>
      </h1>
      <p className={classes.certainty}>
        {CERTAINTY_WORDS[finding.certainty]}
        {finding.certainty === 'proved' && ` ${assumingWords(finding.assumes)}`}
      </p>
      <p className={classes.certainty}>
        {KINDS[finding.kind].why} {KINDS[finding.kind].remedy}
      </p>
      <RuleList auditId={auditId} rules={finding.rules} />
      {finding.split && <PartsBar auditId={auditId} finding={finding} />}
      {finding.strength && (
        <p className={classes.strength}>
          <strong>{formatPart(finding.strength.part, finding.strength.whole)}</strong> {finding.strength.words}.
        </p>
      )}
      {finding.count > 0 && (
        <>
          <h2 className={classes.heading}>
            Messages{' '}
            <Link href={`/audits/${auditId}/mail?finding=${encodeURIComponent(finding.key)}`}>
              {formatPart(finding.count, finding.total)}
            </Link>
          </h2>
          <table className={classes.sample}>
            <tbody>
              {finding.sample.map((row) => (
                <tr key={row.number}>
                  <td>{formatDay(row.date)}</td>
                  <td>{row.from || row.fromAddress}</td>
                  <td>
                    <Link href={`/audits/${auditId}/mail/${row.number}`} dir="auto">
                      {row.subject || '(no subject)'}
                    </Link>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      <Repairs auditId={auditId} finding={finding} />
      <Ways auditId={auditId} finding={finding} />
      <SetAside auditId={auditId} finding={finding} />
    </article>
  );
}

/** The trace of one message, under the chain as it is and after the first repair. */
export function Ways({ auditId, finding }: { auditId: string; finding: FindingView }) {
  const { ways, witness, destinations, sample } = finding;
  if (ways.length === 0) return null;
  const [newest] = sample;
  return (
    <section aria-label="One message through the chain">
      <h2 className={classes.heading}>
        {witness ? (finding.isKept ? 'A probe that you keep' : 'An example message') : 'The newest of these messages'}{' '}
        through the chain
        {!witness && newest && (
          <>
            {': '}
            <Link href={`/audits/${auditId}/mail/${newest.number}`} dir="auto">
              {newest.subject || '(no subject)'}
            </Link>
          </>
        )}
      </h2>
      {witness !== null && witness.now !== null && <p>{neededClock(witness.now)}</p>}
      {witness && (
        <pre className={classes.witness} dir="auto">
          {witness.text}
        </pre>
      )}
      <div className={classes.ways}>
        {ways.map(({ title, fate, steps }) => (
          <div key={title}>
            <h3 className={classes.wayTitle}>{title}</h3>
            <ol className={classes.steps}>
              {steps.map(({ id, name, stopped, here }) => (
                <li key={id} data-here={here}>
                  <Link href={`/audits/${auditId}/chain#${id}`}>{name}</Link>
                  {stopped && ' and stops'}
                </li>
              ))}
              {steps.length === 0 && <li>no rule acts on it</li>}
            </ol>
            <p className={classes.wayFate}>
              <Fate fate={fate} destinations={destinations} />
            </p>
          </div>
        ))}
      </div>
    </section>
  );
}

/** Sets the finding aside with a reason, until its facts change; or reopens it. */
function SetAside({ auditId, finding: { key, aside } }: { auditId: string; finding: FindingView }) {
  const { act, busy } = useAct();
  const send = (method: 'PUT' | 'DELETE', body: object) => call(`/api/audits/${auditId}/set-aside`, method, body);
  return (
    <div className={classes.asideRow}>
      {aside ? (
        <>
          <span>
            Set aside on {formatDay(aside.createdAt)}: {aside.reason}
          </span>
          <Button size="compact-sm" variant="default" loading={busy} onClick={() => act(() => send('DELETE', { key }))}>
            Reopen
          </Button>
        </>
      ) : (
        <ReasonForm
          label="Why this finding is set aside"
          placeholder="Why is this intended?"
          why="Say why this is intended."
          onReason={(reason) => send('PUT', { key, reason })}
        >
          Set aside
        </ReasonForm>
      )}
    </div>
  );
}
