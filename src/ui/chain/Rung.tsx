'use client';

import Link from 'next/link';
import type { CSSProperties } from 'react';
import type { ChainView, Rung as RungData } from '../../server/views/chain';
import { formatNumber, formatPart } from '../common/format';
import { Swatch } from '../common/tints';
import classes from './Chain.module.css';
import { Stream } from './Stream';

export const RUNG_HEIGHT = 48;

interface Props {
  readonly auditId: string;
  readonly rung: RungData;
  readonly next: RungData | null;
  readonly view: ChainView;
  /** How much of the mail of the rule at hand comes to this rung, and to the next. */
  readonly lit: { readonly here: number; readonly next: number } | null;
  readonly chosen: boolean;
  readonly onChoose: (id: string) => void;
  readonly style: CSSProperties;
}

/** One rule in the ladder: its piece of the stream, its sentence, what it takes and to where. */
export function Rung({ auditId, rung, next, view, lit, chosen, onChoose, style }: Props) {
  const grave = rung.findings.filter(({ kind }) => kind !== 'overlap');
  return (
    <div className={classes.rung} style={style} data-chosen={chosen || undefined} data-off={!rung.on || undefined}>
      <Stream rung={rung} next={next} view={view} lit={lit} height={RUNG_HEIGHT} />
      <button type="button" className={classes.words} onClick={() => onChoose(rung.id)} aria-pressed={chosen}>
        <span className={classes.nameLine}>
          <span className={classes.place}>{rung.place + 1}</span>
          <span className={classes.name}>{rung.name}</span>
          {!rung.on && <span className={classes.tag}>off</span>}
          {rung.kind === 'script' && <span className={classes.tag}>{rung.works ? 'script' : 'not run'}</span>}
        </span>
        <span className={classes.sentence}>{rung.sentence}</span>
      </button>
      <div className={classes.takes}>
        <Takes auditId={auditId} rung={rung} view={view} />
      </div>
      <div className={classes.marks}>
        {grave.length > 0 && (
          <Link
            href={`/audits/${auditId}/findings?finding=${encodeURIComponent(grave[0]?.key ?? '')}`}
            className={classes.mark}
            title={`${grave.length} findings beside overlaps name this rule`}
            aria-label={`${grave.length} findings name ${rung.name}`}
          >
            {grave.length}
          </Link>
        )}
      </div>
    </div>
  );
}

function Takes({ auditId, rung, view }: { auditId: string; rung: RungData; view: ChainView }) {
  const { counts, targets, id } = rung;
  if (!counts) return null;
  const places = view.destinations.filter(({ key }) => targets.includes(key));
  const verb = rung.ending === 'stop' ? 'ends' : 'acts on';
  return (
    <>
      <Link
        href={`/audits/${auditId}/mail?rule=${id}&part=fired`}
        title={`${verb} ${formatPart(counts.fired, counts.reached)} that reach it`}
        className={counts.fired === 0 ? classes.dry : classes.count}
      >
        {formatNumber(counts.fired)}
      </Link>
      <span className={classes.of}>of {formatNumber(counts.reached)}</span>
      <span className={classes.target}>
        {places.map((place) => (
          <span key={place.key} title={place.label}>
            <Swatch destination={place} /> {place.label}
          </span>
        ))}
        {places.length === 0 && <span className={classes.of}>{rung.deed}</span>}
      </span>
    </>
  );
}
