'use client';

import Link from 'next/link';
import { KINDS } from '../../core/audit/kind-words';
import type { FindingView } from '../../server/findings/finding-view';
import type { FindingLine, FindingsQuery, FindingsView, GroupLine } from '../../server/findings/list-view';
import { formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { NoRules, Notice } from '../common/Notice';
import { Quoted } from '../common/Quoted';
import { Filters, Tabs } from './Filters';
import { FindingDetail } from './FindingDetail';
import classes from './Findings.module.css';
import { CONSEQUENCE_WORDS } from './finding-words';

interface Props {
  readonly auditId: string;
  readonly view: FindingsView;
  readonly query: FindingsQuery;
  readonly chosen: FindingView | null;
}

/** The findings, gravest first, grouped by cause; one finding with its evidence and repairs. */
export function Findings({ auditId, view, query, chosen }: Props) {
  if (!view.ruled) {
    return (
      <NoRules auditId={auditId}>
        Findings say what is wrong or risky in the rules, with the messages concerned and with repairs to choose from.
      </NoRules>
    );
  }
  if (!view.audited) {
    return (
      <Notice title="There are no findings yet">
        <p>The audit is running; its progress is shown below.</p>
      </Notice>
    );
  }
  const hrefOf = (key: string) => {
    const parts = Object.entries({ ...query, finding: key }).flatMap(([name, value]) =>
      value ? [[name, String(value)] as const] : [],
    );
    return `/audits/${auditId}/findings?${new URLSearchParams(Object.fromEntries(parts))}`;
  };
  return (
    <div className={classes.page}>
      <section className={classes.list} aria-label="Findings">
        <div>
          <Tabs auditId={auditId} current="findings" />
          <div className={classes.standing}>
            <Head action={<Onward href={`/audits/${auditId}/plan`}>Plan the repairs</Onward>}>
              {confirmedWords(view.counts.bases.stored)}
            </Head>
          </div>
          <Filters view={view} query={query} />
          {view.notes.map((note) => (
            <p key={note} className={classes.note}>
              {note}
            </p>
          ))}
        </div>
        {view.groups.length === 0 ? (
          <Nothing view={view} />
        ) : (
          <ol className={classes.lines}>
            {view.groups.map((group, index) => (
              <Group
                key={group.lead.key}
                auditId={auditId}
                group={group}
                headed={group.lead.consequence !== view.groups[index - 1]?.lead.consequence}
                total={view.total}
                chosen={chosen?.key ?? null}
                hrefOf={hrefOf}
              />
            ))}
          </ol>
        )}
      </section>
      {chosen ? (
        <FindingDetail key={chosen.key} auditId={auditId} finding={chosen} />
      ) : (
        <Notice title={view.groups.length === 0 ? 'No finding selected' : 'This finding is resolved'}>
          <p>
            {view.groups.length === 0
              ? 'There is no evidence to show.'
              : 'The chain has changed since. Select another finding.'}
          </p>
        </Notice>
      )}
    </div>
  );
}

const confirmedWords = (count: number): string =>
  count === 1
    ? 'One finding is confirmed by stored mail'
    : `${formatNumber(count)} findings are confirmed by stored mail`;

function Nothing({ view }: { view: FindingsView }) {
  const { counts, total } = view;
  return (
    <p className={classes.nothing}>
      {counts.all > 0
        ? `${counts.all === 1 ? 'The only finding does not match' : `None of the ${formatNumber(counts.all)} findings matches`} these filters.`
        : `No findings, neither on ${formatNumber(total)} stored messages nor by proof about all possible messages.`}
    </p>
  );
}

interface GroupProps {
  readonly auditId: string;
  readonly group: GroupLine;
  readonly headed: boolean;
  readonly total: number;
  readonly chosen: string | null;
  readonly hrefOf: (key: string) => string;
}

/** Findings with one cause: the weightiest, with the others folded below. */
function Group({ auditId, group: { cause, lead, others, more }, headed, total, chosen, hrefOf }: GroupProps) {
  const rest = others.length + more;
  const line = (one: FindingLine) => (
    <Link
      href={hrefOf(one.key)}
      className={classes.line}
      aria-current={one.key === chosen ? 'true' : undefined}
      scroll={false}
    >
      <span className={classes.kind}>{KINDS[one.kind].title}</span>
      <span
        className={classes.number}
        title={
          one.isKept
            ? 'shown by a probe that you keep'
            : one.madeUp
              ? 'shown by an example message'
              : `${formatPart(one.count, total)} messages`
        }
      >
        {one.madeUp ? '–' : formatNumber(one.count)}
      </span>
      <span className={classes.claim}>
        <Quoted>{one.claim}</Quoted>
      </span>
    </Link>
  );
  return (
    <li>
      {headed && <h2 className={classes.consequence}>{CONSEQUENCE_WORDS[lead.consequence]}</h2>}
      {cause && (
        <Link
          href={`/audits/${auditId}/plan?${new URLSearchParams({ [cause.by]: cause.key })}`}
          className={classes.cause}
          dir="auto"
        >
          {cause.by === 'step' ? cause.title : `Question: where does “${cause.title || '(no subject)'}” belong?`}
        </Link>
      )}
      {line(lead)}
      {rest > 0 && (
        <details className={classes.others} open={others.some(({ key }) => key === chosen)}>
          <summary>and {formatNumber(rest)} more with the same cause</summary>
          <ul>
            {others.map((one) => (
              <li key={one.key}>{line(one)}</li>
            ))}
            {more > 0 && <li className={classes.nothing}>and {formatNumber(more)} more</li>}
          </ul>
        </details>
      )}
    </li>
  );
}
