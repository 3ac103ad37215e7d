'use client';

import Link from 'next/link';
import { useEffect } from 'react';
import type { ChangesView } from '../../server/changes/view';
import { call, tell } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { TextDifferences } from '../common/TextDifferences';
import { VerdictWords } from '../common/VerdictWords';
import classes from './Changes.module.css';
import { History } from './History';
import { MatrixTable, Moved } from './Moved';
import { Versions } from './Versions';

/**
 * Two chains side by side, usually the draft and the imported chain: messages whose fate differs, and the change
 * history.
 */
export function Changes({ auditId, view }: { auditId: string; view: ChangesView }) {
  const { comparison, matrix, verdict, byRule, texts, history } = view;
  useComparing(auditId, view);
  const mail = (narrowed: Record<string, string>) =>
    `/audits/${auditId}/mail?${new URLSearchParams({ between: `${view.before}..${view.after}`, ...narrowed })}`;
  return (
    <div className={classes.page}>
      <section className={classes.effect}>
        <Claim auditId={auditId} view={view} href={mail({})} />
        <p className={classes.from}>
          Must hold after every change: <Link href={`/audits/${auditId}/expectations`}>expectations</Link>
        </p>
        {verdict && texts && (
          <VerdictWords
            verdict={verdict}
            yes="No message is treated differently"
            no="Some messages are treated differently"
          />
        )}
        {matrix && comparison && comparison.changed > 0 && (
          <MatrixTable matrix={matrix} names={view.names} hrefOf={(was, becomes) => mail({ was, becomes })} />
        )}
        {comparison && byRule.length > 0 && (
          <>
            <h2 className={classes.heading}>By rule responsible</h2>
            <ul className={classes.responsible}>
              {byRule.map(({ id, name, count }) => (
                <li key={id}>
                  <Link href={mail({ mover: id })}>{formatPart(count, comparison.changed)}</Link>
                  <bdi>{name}</bdi>
                </li>
              ))}
            </ul>
          </>
        )}
        {comparison && comparison.changed > 0 && (
          <Moved
            auditId={auditId}
            comparison={comparison}
            names={view.names}
            all={mail({})}
            hrefOf={(was, becomes) => mail({ was, becomes, flags: '1' })}
          />
        )}
        {texts && <TextDifferences texts={texts} names={view.names} />}
      </section>
      <aside className={classes.history} aria-label="History and versions">
        <History auditId={auditId} history={history} changed={comparison?.changed ?? null} />
        <Versions auditId={auditId} view={view} />
      </aside>
    </div>
  );
}

/** Starts comparing two chains if needed; the page refreshes when the job ends. */
function useComparing(auditId: string, { before, after, comparison, verdict }: ChangesView): void {
  const unknown = comparison === null || verdict === null;
  useEffect(() => {
    if (unknown) call(`/api/audits/${auditId}/compare`, 'POST', { before, after }).catch(tell);
  }, [auditId, before, after, unknown]);
}

function Claim({ auditId, view, href }: { auditId: string; view: ChangesView; href: string }) {
  const { comparison, texts, names, before, after } = view;
  if (!texts) {
    const untouched = before === 'baseline' && after === 'draft';
    return (
      <>
        <h1 className={classes.verdict}>{untouched ? 'No changes yet' : 'Both versions are identical'}</h1>
        {untouched && (
          <p>
            The draft is identical to the imported chain. Make changes in the{' '}
            <Link href={`/audits/${auditId}/chain`}>Chain</Link> or in a{' '}
            <Link href={`/audits/${auditId}/findings`}>finding</Link>.
          </p>
        )}
      </>
    );
  }
  if (!comparison) return <h1 className={classes.verdict}>The chains are being simulated</h1>;
  const onward = after === 'draft' && <Onward href={`/audits/${auditId}/export`}>Export the script</Onward>;
  const beside =
    before === 'baseline' && after === 'draft' ? 'than before' : `under ${names[1]} than under ${names[0]}`;
  if (comparison.changed === 0) {
    return (
      <Head action={onward}>
        None of {formatNumber(comparison.total)} stored messages has a different destination {beside}
      </Head>
    );
  }
  return (
    <Head action={onward}>
      <Link href={href}>{formatPart(comparison.changed, comparison.total)}</Link> messages{' '}
      {comparison.changed === 1 ? 'has' : 'have'} a different destination {beside}
    </Head>
  );
}
