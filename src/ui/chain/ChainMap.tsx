'use client';

import type { MouseEvent } from 'react';
import type { ChainView } from '../../server/chain/view';
import { fillOf } from '../common/tints';
import classes from './Chain.module.css';

const WIDTH = 46;
const STREAM = 22;
/** Most pixels for each rule: a short chain is not stretched further. */
const MOST_PER_RUNG = 20;

interface Props {
  readonly view: ChainView;
  readonly chosen: string;
  readonly onChoose: (id: string) => void;
}

/** The whole chain at small scale: where the stream narrows, and where findings are. */
export function ChainMap({ view, chosen, onChoose }: Props) {
  const count = view.rungs.length;
  const pick = (event: MouseEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const place = Math.floor(((event.clientY - box.top) / box.height) * count);
    const rung = view.rungs[Math.max(0, Math.min(count - 1, place))];
    if (rung) onChoose(rung.id);
  };
  const scale = view.total > 0 ? STREAM / view.total : 0;
  return (
    <svg
      className={classes.map}
      style={{ maxHeight: count * MOST_PER_RUNG }}
      viewBox={`0 0 ${WIDTH} ${count}`}
      preserveAspectRatio="none"
      onClick={pick}
      aria-hidden="true"
    >
      <title>the whole chain</title>
      {view.rungs.map((rung, place) => {
        const width = (rung.counts?.passing ?? 0) * scale;
        const taken = Math.max(rung.counts?.stopped ? 1.5 : 0, (rung.counts?.stopped ?? 0) * scale);
        const target = view.destinations.find(({ key }) => rung.targets.includes(key));
        return (
          <g key={rung.id} opacity={rung.on ? 1 : 0.35}>
            {rung.id === chosen && <rect x="0" y={place} width={WIDTH} height="1" fill="var(--accent-wash)" />}
            <rect x="3" y={place} width={width} height="1.02" fill="var(--stream)" />
            {taken > 0 && (
              <rect x={3 + width - taken} y={place + 0.2} width={taken + 6} height="0.6" fill={fillOf(target)} />
            )}
            {rung.findings.some(({ kind }) => kind === 'shadowed' || kind === 'runs-on') && (
              <rect x={WIDTH - 9} y={place + 0.2} width="6" height="0.6" fill="var(--accent)" />
            )}
          </g>
        );
      })}
    </svg>
  );
}
