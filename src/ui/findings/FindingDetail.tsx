import Link from 'next/link';
import { KINDS, PROOF_ASSUMES } from '../../core/audit/wording';
import type { FindingView } from '../../server/findings/finding-view';
import { formatDay, formatPart } from '../common/format';
import classes from './Findings.module.css';
import { CERTAINTY_WORDS } from './finding-words';
import { PartsBar } from './PartsBar';
import { Repairs } from './Repairs';
import { RuleList } from './RuleList';
import { SetAside } from './SetAside';
import { Ways } from './Ways';

/** The claim, how sure it is, its evidence, and what could be done about it. */
export function FindingDetail({ auditId, finding }: { auditId: string; finding: FindingView }) {
  return (
    <article className={classes.detail}>
      <p className={classes.detailKind}>
        <Link href={`/help#${finding.kind}`}>{KINDS[finding.kind].title}</Link>{' '}
        <span className="mono">{finding.kind}</span>
      </p>
      <h1 className={classes.detailClaim}>{finding.claim}</h1>
      <p className={classes.certainty}>
        {CERTAINTY_WORDS[finding.certainty]}
        {finding.certainty === 'proved' && ` ${PROOF_ASSUMES}`}
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
