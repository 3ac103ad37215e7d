'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { FindingKind } from '../../core/audit/finding';
import { KINDS } from '../../core/audit/words';
import type { FindingsView, FindingView } from '../../server/views/findings';
import { formatNumber, formatPart } from '../common/format';
import { Notice } from '../common/Notice';
import { FindingDetail } from './FindingDetail';
import classes from './Findings.module.css';
import { CONSEQUENCE_WORDS } from './words';

interface Props {
  readonly auditId: string;
  readonly view: FindingsView;
  readonly chosen: FindingView | null;
}

/** What the audit states, the gravest first; one finding with its evidence and its repairs. */
export function Findings({ auditId, view, chosen }: Props) {
  const [kind, setKind] = useState<FindingKind | null>(null);
  if (!view.audited) {
    return (
      <Notice title="There are no findings yet">
        <p>They are looked for as soon as rules and mail are there. What is under way is shown above.</p>
      </Notice>
    );
  }
  if (view.findings.length === 0) {
    return (
      <Notice title="Nothing to find">
        <p>
          On {formatNumber(view.total)} stored messages no two rules meet, and each rule that can act is reached. What
          could happen with other mail is not looked at yet.
        </p>
      </Notice>
    );
  }
  const shown = view.findings.filter((finding) => kind === null || finding.kind === kind);
  return (
    <div className={classes.page}>
      <section className={classes.list} aria-label="Findings">
        <div className={classes.kinds}>
          {(Object.keys(KINDS) as FindingKind[]).map((name) => {
            const count = view.findings.filter((finding) => finding.kind === name).length;
            return (
              <button
                key={name}
                type="button"
                aria-pressed={kind === name}
                disabled={count === 0}
                onClick={() => setKind(kind === name ? null : name)}
                title={KINDS[name].meaning}
              >
                {KINDS[name].title} {formatNumber(count)}
              </button>
            );
          })}
        </div>
        <ol className={classes.lines}>
          {shown.map((finding, index) => {
            const headed = finding.consequence !== shown[index - 1]?.consequence;
            return (
              <li key={finding.key}>
                {headed && <h2 className={classes.consequence}>{CONSEQUENCE_WORDS[finding.consequence]}</h2>}
                <Link
                  href={`/audits/${auditId}/findings?finding=${encodeURIComponent(finding.key)}`}
                  className={classes.line}
                  aria-current={finding.key === chosen?.key ? 'true' : undefined}
                  scroll={false}
                >
                  <span className={classes.kind}>{KINDS[finding.kind].title}</span>
                  <span className={classes.number} title={`${formatPart(finding.count, view.total)} messages`}>
                    {formatNumber(finding.count)}
                  </span>
                  <span className={classes.claim}>{finding.claim}</span>
                </Link>
              </li>
            );
          })}
        </ol>
      </section>
      {chosen ? (
        <FindingDetail key={chosen.key} auditId={auditId} finding={chosen} />
      ) : (
        <Notice title="This finding is no longer there">
          <p>The chain has changed since; choose another one.</p>
        </Notice>
      )}
    </div>
  );
}
