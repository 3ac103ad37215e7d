'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import type { OriginsView, StreamsView } from '../../server/chain/flows-view';
import { call } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { Notice } from '../common/Notice';
import { Swatch } from '../common/tints';
import { NoMail } from '../common/Ways';
import classes from './Flows.module.css';
import { Months } from './Months';

// The diagram measures itself, which only a browser can.
const Diagram = dynamic(() => import('./Diagram').then(({ Diagram: drawn }) => drawn), { ssr: false });

/** From which rules mail goes to which places; and for one place, where its mail comes from. */
export function Flows({ auditId, view }: { auditId: string; view: StreamsView | null }) {
  const [chosen, choose] = useState<string | null>(null);
  if (!view) return <Notice title="The chain is not simulated yet">Where mail goes is not known.</Notice>;
  if (view.total === 0) return <NoMail auditId={auditId}>Nothing goes anywhere.</NoMail>;
  const places = view.destinations.filter(({ count }) => count > 0).sort((a, b) => b.count - a.count);
  const place = places.find(({ key }) => key === chosen) ?? places[0];
  return (
    <div className={classes.page}>
      <nav className={classes.places} aria-label="Places where mail ends">
        <h1 className={classes.title}>Where mail goes</h1>
        {places.map((one) => (
          <button
            key={one.key}
            type="button"
            className={classes.place}
            aria-pressed={one.key === place?.key}
            onClick={() => choose(one.key)}
          >
            <Swatch destination={one} />
            <span className={classes.label}>{one.label}</span>
            <span>
              {formatPart(one.count, view.total)}
              {one.unread !== null && one.unread > 0 && `, ${formatNumber(one.unread)} unread`}
            </span>
          </button>
        ))}
      </nav>
      <div className={classes.pictures}>
        <div className={classes.flow}>
          <Diagram view={view} chosen={place?.key ?? ''} onChoose={choose} />
        </div>
        {place && <Origins auditId={auditId} view={view} destination={place.key} label={place.label} />}
      </div>
    </div>
  );
}

interface OriginsProps {
  readonly auditId: string;
  readonly view: StreamsView;
  readonly destination: string;
  readonly label: string;
}

/** Where the mail of one place comes from: by rule, by the sender's domain, by month. */
function Origins({ auditId, view, destination, label }: OriginsProps) {
  const [origins, setOrigins] = useState<OriginsView | null>(null);
  useEffect(() => {
    let current = true;
    setOrigins(null);
    call(`/api/audits/${auditId}/origins?destination=${encodeURIComponent(destination)}`, 'GET')
      .then((answer) => current && setOrigins(answer as OriginsView))
      .catch(() => {});
    return () => {
      current = false;
    };
  }, [auditId, destination]);
  const links = view.links.filter((link) => link.destination === destination);
  const count = view.destinations.find(({ key }) => key === destination)?.count ?? 0;
  const fate = `fate=${encodeURIComponent(destination)}`;
  return (
    <section aria-label={`Where the mail of ${label} comes from`}>
      <h2 className={classes.heading}>
        {label}: {formatPart(count, view.total)} messages
      </h2>
      <div className={classes.overTime}>
        {origins && <Months months={origins.months} label={`Messages a month that end in ${label}`} />}
      </div>
      <div className={classes.lists}>
        <Bars
          title="by the rule that puts it there"
          whole={count}
          rows={links.map((link) => ({
            key: link.rule ?? link.name,
            label: link.name,
            count: link.count,
            href: `/audits/${auditId}/mail?${fate}${link.rule === null ? '&untouched=1' : `&rule=${link.rule}&part=fired`}`,
          }))}
        />
        <Bars
          title="by the sender’s domain"
          whole={count}
          rows={(origins?.domains ?? []).map(({ domain, count: from }) => ({
            key: domain,
            label: domain || '(no address)',
            count: from,
            href: `/audits/${auditId}/mail?${fate}&from=${encodeURIComponent(domain)}`,
          }))}
        />
      </div>
    </section>
  );
}

interface BarsProps {
  readonly title: string;
  readonly whole: number;
  readonly rows: readonly {
    readonly key: string;
    readonly label: string;
    readonly count: number;
    readonly href: string;
  }[];
}

const SHOWN = 12;

function Bars({ title, whole, rows }: BarsProps) {
  return (
    <div>
      <h3 className={classes.subheading}>{title}</h3>
      <ul className={classes.bars}>
        {rows.slice(0, SHOWN).map(({ key, label, count, href }) => (
          <li key={key}>
            <span className={classes.label} dir="auto" title={label}>
              {label}
            </span>
            <svg className={classes.bar} viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
              <title>{label}</title>
              <rect width={(100 * count) / Math.max(1, whole)} height="10" fill="var(--stream)" />
            </svg>
            <Link href={href}>{formatPart(count, whole)}</Link>
          </li>
        ))}
        {rows.length > SHOWN && <li>and {formatNumber(rows.length - SHOWN)} more</li>}
      </ul>
    </div>
  );
}
