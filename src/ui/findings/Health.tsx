'use client';

import Link from 'next/link';
import { keysOf } from '../../core/text/lookup';
import type { HealthView } from '../../server/findings/health-view';
import { formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { NoRules, Notice } from '../common/Notice';
import { Tabs } from './Filters';
import classes from './Findings.module.css';
import { CERTAINTY_NAMES, CONSEQUENCE_WORDS } from './finding-words';
import { HealthCharts } from './HealthCharts';

/** The overview of an audit: destinations, findings, mail no rule acts on, when rules last acted. */
export function Health({ auditId, view, isRuled }: { auditId: string; view: HealthView | null; isRuled: boolean }) {
  if (!isRuled) {
    return (
      <NoRules auditId={auditId}>
        The overview counts what the whole chain does: destinations, mail that no rule acts on, rules that never act.
      </NoRules>
    );
  }
  if (!view) return <Notice title="The chain is not audited yet">The overview appears once the audit ends.</Notice>;
  const { coverage, total } = view;
  const idle = view.lastFired.find(({ key }) => key === 'never')?.rules ?? [];
  return (
    <div className={classes.health}>
      <Tabs auditId={auditId} current="findings/health" />
      <div className={classes.standing}>
        <Head action={<Onward href={`/audits/${auditId}/plan`}>See the plan</Onward>}>
          <Link href={`/audits/${auditId}/mail?untouched=1`}>{formatPart(coverage.untouched, total)}</Link> messages are
          acted on by no rule
        </Head>
      </div>
      <p className={classes.healthLead}>
        <Link href={`/audits/${auditId}/mail?passing=often`}>{formatNumber(coverage.often)}</Link> are acted on by more
        than one rule.{' '}
        {idle.length > 0 && (
          <>
            <Link href={`/audits/${auditId}/findings?kind=idle`}>{formatPart(idle.length, view.rules)}</Link> rules
            never acted.{' '}
          </>
        )}
        <Link href={`/audits/${auditId}/findings/overlaps`}>{formatNumber(view.overlaps)} pairs</Link> of rules overlap
        {view.unasked > 0 && `, ${formatNumber(view.unasked)} were not checked`}.
      </p>
      {view.overlaps > 0 && <p className={classes.healthOrders}>{ordersWords(view.orders)}</p>}
      <HealthCharts auditId={auditId} view={view} />
      <div className={classes.healthLists}>
        <section aria-label="Findings by consequence">
          <h2 className={classes.heading}>Findings by consequence</h2>
          <table className={classes.figures}>
            <thead>
              <tr>
                <th scope="col">consequence</th>
                {Object.values(CERTAINTY_NAMES).map((name) => (
                  <th key={name} scope="col">
                    {name}
                  </th>
                ))}
                <th scope="col">all</th>
              </tr>
            </thead>
            <tbody>
              {view.findings.map((row) => (
                <tr key={row.consequence}>
                  <td>{CONSEQUENCE_WORDS[row.consequence]}</td>
                  {keysOf(CERTAINTY_NAMES).map((name) => (
                    <td key={name}>
                      <Link href={`/audits/${auditId}/findings?consequence=${row.consequence}&certainty=${name}`}>
                        {formatNumber(row[name])}
                      </Link>
                    </td>
                  ))}
                  <td>
                    <Link href={`/audits/${auditId}/findings?consequence=${row.consequence}`}>
                      {formatNumber(row.all)}
                    </Link>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section aria-label="Rules by when they last acted">
          <h2 className={classes.heading}>Rules by when they last acted</h2>
          <ul className={classes.ages}>
            {view.lastFired
              .filter(({ rules }) => rules.length > 0)
              .map(({ key, label, rules }) => (
                <li key={key}>
                  <details open={key === 'never'}>
                    <summary>
                      {label}: {formatPart(rules.length, view.rules)}
                    </summary>
                    {/* A link to what is within opens it. */}
                    <span id={`acted-${key}`}>
                      {rules.map(({ id, name }, index) => (
                        <span key={id}>
                          {index > 0 && ', '}
                          <Link href={`/audits/${auditId}/chain#${id}`}>
                            <bdi>{name}</bdi>
                          </Link>
                        </span>
                      ))}
                    </span>
                  </details>
                </li>
              ))}
          </ul>
        </section>
      </div>
    </div>
  );
}

/** What is known of the order of rules that overlap. */
function ordersWords({ conflict, alike, alone, open }: HealthView['orders']): string {
  const parts = [
    conflict > 0 && `for ${formatNumber(conflict)} a message shows that it matters`,
    alike > 0 && `for ${formatNumber(alike)} it makes no difference`,
    alone > 0 &&
      `for ${formatNumber(alone)} it matters to mail that no other rule matches, or only one between them that stops`,
    open > 0 && `for ${formatNumber(open)} it is undecided`,
  ];
  return `The order of rules that overlap: ${parts.filter(Boolean).join('; ')}. A pair of the map says more when you open it.`;
}
