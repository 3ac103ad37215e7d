'use client';

import { useDraggable, useDroppable } from '@dnd-kit/core';
import { Tooltip } from '@mantine/core';
import { IconGripVertical } from '@tabler/icons-react';
import Link from 'next/link';
import { type CSSProperties, useRef, useState } from 'react';
import type { ChainView, Rung as RungData } from '../../server/chain/view';
import { formatNumber, formatPart } from '../common/format';
import { Quoted } from '../common/Quoted';
import { Swatch } from '../common/tints';
import classes from './Chain.module.css';
import { Stream } from './Stream';

export const RUNG_HEIGHT = 48;

interface Props {
  readonly auditId: string;
  readonly rung: RungData;
  /** The next rung, to which the stream continues; undefined if rungs are not in running order. */
  readonly next: RungData | null | undefined;
  readonly view: ChainView;
  /** How much of the selected rule's mail reaches this rung, and the next. */
  readonly ofChosen: { readonly here: number; readonly next: number } | null;
  readonly chosen: boolean;
  /** Whether it contains what is looked for. */
  readonly found: boolean;
  readonly onChoose: (id: string) => void;
  readonly style: CSSProperties;
}

/** One rule in the ladder: its piece of the stream, its sentence, its count and destinations. */
export function RungRow({ auditId, rung, next, view, ofChosen, chosen, found, onChoose, style }: Props) {
  const grave = rung.findings.filter(({ kind }) => kind !== 'overlap');
  const drag = useDraggable({ id: rung.id, disabled: next === undefined });
  const drop = useDroppable({ id: rung.id, disabled: next === undefined });
  const ref = (node: HTMLDivElement | null) => {
    drag.setNodeRef(node);
    drop.setNodeRef(node);
  };
  const from = drag.active ? view.rungs.findIndex(({ id }) => id === drag.active?.id) : -1;
  return (
    <div
      ref={ref}
      className={classes.rung}
      style={style}
      data-chosen={chosen || undefined}
      data-found={found || undefined}
      data-off={!rung.on || undefined}
      data-drop={drop.isOver && from !== rung.place ? (from < rung.place ? 'below' : 'above') : undefined}
    >
      {next === undefined ? (
        <Share rung={rung} total={view.total} />
      ) : (
        <Stream
          rung={rung}
          view={view}
          left={next?.counts?.passing ?? view.foot?.left ?? rung.counts?.passing ?? 0}
          ofChosen={ofChosen}
          height={RUNG_HEIGHT}
        />
      )}
      <span
        ref={drag.setActivatorNodeRef}
        className={classes.grip}
        title={next === undefined ? undefined : 'Drag the rule to another place, or press Alt and an arrow key'}
        {...drag.listeners}
      >
        {next !== undefined && <IconGripVertical size={14} aria-hidden="true" />}
      </span>
      <Words rung={rung} chosen={chosen} onChoose={onChoose} />
      <div className={classes.takes}>
        <Takes auditId={auditId} rung={rung} view={view} />
      </div>
      <div className={classes.marks}>
        {grave.length > 0 && (
          <Link
            href={`/audits/${auditId}/findings?finding=${encodeURIComponent(grave[0]?.key ?? '')}`}
            className={classes.mark}
            title={`${grave.length} findings about this rule, overlaps aside`}
            aria-label={`${grave.length} findings about ${rung.name}`}
          >
            {grave.length}
          </Link>
        )}
      </div>
    </div>
  );
}

/** The name and sentence of a rule. A sentence that is cut is shown whole under the pointer, and when it has the focus. */
function Words({ rung, chosen, onChoose }: Pick<Props, 'rung' | 'chosen' | 'onChoose'>) {
  const sentence = useRef<HTMLSpanElement>(null);
  const [isCut, setCut] = useState(false);
  const look = () => {
    const { scrollHeight = 0, clientHeight = 0 } = sentence.current ?? {};
    setCut(scrollHeight > clientHeight + 1);
  };
  return (
    <Tooltip
      label={rung.sentence}
      disabled={!isCut}
      multiline
      w={460}
      openDelay={300}
      position="bottom-start"
      events={{ hover: true, focus: true, touch: false }}
    >
      <button
        type="button"
        className={classes.words}
        onClick={() => onChoose(rung.id)}
        onMouseEnter={look}
        onFocus={look}
        aria-pressed={chosen}
      >
        <span className={classes.nameLine}>
          <span className={classes.place}>{rung.place + 1}</span>
          <bdi className={classes.name}>{rung.name}</bdi>
          {!rung.on && <span className={classes.tag}>off</span>}
          {rung.kind === 'script' && <span className={classes.tag}>{rung.works ? 'script' : 'not run'}</span>}
        </span>
        <span ref={sentence} className={classes.sentence}>
          <Quoted>{rung.sentence}</Quoted>
        </span>
      </button>
    </Tooltip>
  );
}

/** The share of mail the rule acts on, where the stream is not drawn. */
function Share({ rung, total }: { rung: RungData; total: number }) {
  return (
    <svg width="150" height={RUNG_HEIGHT} aria-hidden="true">
      <title>{`it acts on ${formatPart(rung.counts?.fired ?? 0, total)}`}</title>
      <rect
        x="8"
        y="18"
        height="12"
        width={total > 0 ? (130 * (rung.counts?.fired ?? 0)) / total : 0}
        fill="var(--stream)"
      />
    </svg>
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
            <Swatch destination={place} /> <bdi>{place.label}</bdi>
          </span>
        ))}
        {places.length === 0 && <span className={classes.of}>{rung.deed}</span>}
      </span>
    </>
  );
}
