'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { type KeyboardEvent, useCallback, useEffect, useRef, useState } from 'react';
import type { ChainView } from '../../server/views/chain';
import { formatNumber, formatPart } from '../common/format';
import { GatherLink } from '../common/GatherLink';
import { Notice } from '../common/Notice';
import classes from './Chain.module.css';
import { ChainMap } from './ChainMap';
import { Foot } from './Foot';
import { RuleAtHand } from './RuleAtHand';
import { RUNG_HEIGHT, Rung } from './Rung';
import { useLit } from './useLit';

const FOOT_HEIGHT = 120;

/** The rules as a ladder with the stream of mail beside them, and the rule at hand. */
export function Chain({ auditId, view }: { auditId: string; view: ChainView }) {
  const [chosen, choose] = useChosen(view);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: view.rungs.length + 1,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (index < view.rungs.length ? RUNG_HEIGHT : FOOT_HEIGHT),
    overscan: 12,
  });
  useEffect(() => {
    const place = view.rungs.findIndex((rung) => rung.id === chosen);
    if (place >= 0) rows.scrollToIndex(place, { align: 'auto' });
  }, [chosen, rows, view.rungs]);
  const rung = view.rungs.find(({ id }) => id === chosen) ?? view.rungs[0];
  const lit = useLit(auditId, view.simulated ? rung?.id : undefined, view);
  if (view.rungs.length === 0) {
    return (
      <Notice title="There are no rules yet">
        <GatherLink auditId={auditId} words="Bring in a Sieve script" />
      </Notice>
    );
  }
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, j: 1, k: -1 }[event.key];
    if (!step || event.target !== event.currentTarget) return;
    event.preventDefault();
    const place = view.rungs.findIndex((rung) => rung.id === chosen);
    const next = view.rungs[Math.max(0, Math.min(view.rungs.length - 1, place + step))];
    if (next) choose(next.id);
  };
  return (
    <div className={classes.page}>
      <div className={classes.ladderSide}>
        <Summary auditId={auditId} view={view} />
        <div ref={scroller} className={classes.scroller} tabIndex={0} role="group" onKeyDown={onKey} aria-label="Chain">
          <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
            {rows.getVirtualItems().map(({ index, start }) => {
              const item = view.rungs[index];
              const style = { position: 'absolute' as const, top: start, left: 0, right: 0 };
              if (!item) return <Foot key="foot" style={style} view={view} auditId={auditId} />;
              return (
                <Rung
                  key={item.id}
                  auditId={auditId}
                  rung={item}
                  next={view.rungs[index + 1] ?? null}
                  view={view}
                  lit={
                    lit && { here: lit.passing[index] ?? 0, next: lit.passing[index + 1] ?? lit.passing[index] ?? 0 }
                  }
                  chosen={item.id === rung?.id}
                  onChoose={choose}
                  style={style}
                />
              );
            })}
          </div>
        </div>
      </div>
      <ChainMap view={view} chosen={rung?.id ?? ''} onChoose={choose} />
      {rung && <RuleAtHand key={rung.id} auditId={auditId} view={view} rung={rung} />}
    </div>
  );
}

function Summary({ auditId, view }: { auditId: string; view: ChainView }) {
  const off = view.rungs.filter((rung) => !rung.on).length;
  const dry = view.rungs.filter((rung) => rung.on && rung.counts?.fired === 0).length;
  return (
    <p className={classes.summary}>
      <strong>{formatNumber(view.total)}</strong> messages run past <strong>{formatNumber(view.rungs.length)}</strong>{' '}
      rules
      {view.foot && (
        <>
          {' '}
          · {formatPart(view.foot.left, view.total)} reach the foot · {formatPart(dry, view.rungs.length)} rules are dry
        </>
      )}
      {off > 0 && ` · ${formatPart(off, view.rungs.length)} are off`}
      {!view.simulated && view.total > 0 && ' · not simulated yet'} ·{' '}
      <Link href={`/audits/${auditId}/script`}>edit as Sieve</Link>
    </p>
  );
}

/**
 * The rung at hand stands in the address, so that it can be shared and returned to: behind the #, since a change of the
 * query would make the page a new one at its next refresh and lose what is being tried.
 */
function useChosen(view: ChainView): [string, (id: string) => void] {
  const [chosen, setChosen] = useState(view.rungs[0]?.id ?? '');
  useEffect(() => {
    const read = () => {
      const id = decodeURIComponent(window.location.hash.slice(1));
      if (id) setChosen(id);
    };
    read();
    window.addEventListener('hashchange', read);
    return () => window.removeEventListener('hashchange', read);
  }, []);
  const choose = useCallback((id: string) => {
    setChosen(id);
    window.history.replaceState(null, '', `#${encodeURIComponent(id)}`);
  }, []);
  return [chosen, choose];
}
