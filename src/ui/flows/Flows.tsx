'use client';

import dynamic from 'next/dynamic';
import { useState } from 'react';
import type { StreamsView } from '../../server/chain/flows-view';
import { formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { NoMail, Notice } from '../common/Notice';
import { Swatch } from '../common/tints';
import { Origins } from './Charts';
import classes from './Flows.module.css';

// Loaded in the browser only: the diagram measures itself.
const Diagram = dynamic(() => import('./Diagram').then(({ Diagram: drawn }) => drawn), { ssr: false });

/** From which rules mail goes to which destinations; and for one destination, where its mail comes from. */
export function Flows({ auditId, view }: { auditId: string; view: StreamsView | null }) {
  const [chosen, choose] = useState<string | null>(null);
  if (!view)
    return <Notice title="The chain is not simulated yet">Destinations appear once the chain is simulated.</Notice>;
  if (view.total === 0) {
    return (
      <NoMail auditId={auditId}>
        A picture shows which rules bring your mail to which folders, and how much of it.
      </NoMail>
    );
  }
  const places = view.destinations.filter(({ count }) => count > 0).sort((a, b) => b.count - a.count);
  const place = places.find(({ key }) => key === chosen) ?? places[0];
  const inbox = places.find(({ kind }) => kind === 'inbox')?.count ?? 0;
  return (
    <div className={classes.page}>
      <div className={classes.head}>
        <Head action={<Onward href={`/audits/${auditId}/refile`}>Apply to stored mail</Onward>}>
          {formatPart(inbox, view.total)} messages reach the inbox; mail goes to {formatNumber(places.length)}{' '}
          {places.length === 1 ? 'destination' : 'destinations'}
        </Head>
      </div>
      <nav className={classes.places} aria-label="Destinations">
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
              {one.unread !== null && one.unread > 0 && `, ${formatNumber(one.unread)} unseen`}
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
