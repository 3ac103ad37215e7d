import type { OverlapMapView } from '../../server/findings/overlaps-view';
import classes from './Findings.module.css';

/** Pixels of the map, without its names. */
const SIDE = 560;
/** Names are shown for at most this many rules. */
const NAMED = 48;

/** The visible part of the map: its first column and row, and their numbers. */
export interface Extent {
  readonly x: number;
  readonly y: number;
  readonly size: number;
}

interface Props {
  readonly view: OverlapMapView;
  readonly extent: Extent;
  /** The selected row and column. */
  readonly at: readonly [row: number, column: number];
}

/** The marks of overlapping pairs, and the cross of the selected pair. */
export function MapPicture({ view: { rules, pairs }, extent: { x, y, size }, at: [row, column] }: Props) {
  const cell = SIDE / size;
  const most = Math.max(1, ...pairs.map(([, , messages]) => messages));
  return (
    <svg className={classes.map} viewBox={`0 0 ${SIDE} ${SIDE}`}>
      <title>Rules × rules overlap map</title>
      {size <= NAMED &&
        rules.slice(y, y + size).map(({ id, number, name }, index) => (
          <text
            key={id}
            x={4}
            y={(index + 0.72) * cell}
            fontSize={Math.min(13, cell * 0.8)}
            className={classes.mapName}
          >
            {y + index < x + size / 2 ? '' : `${number} ${name}`}
          </text>
        ))}
      {pairs.flatMap(([a, b, messages]) => {
        const places = [
          [a, b],
          [b, a],
        ] as const;
        return places.flatMap(([r, c]) =>
          r < c && r >= y && r < y + size && c >= x && c < x + size
            ? [
                <rect
                  key={`${r} ${c}`}
                  x={(c - x) * cell}
                  y={(r - y) * cell}
                  width={Math.max(0.6, cell - (cell > 4 ? 1 : 0))}
                  height={Math.max(0.6, cell - (cell > 4 ? 1 : 0))}
                  className={messages > 0 ? classes.met : classes.possible}
                  opacity={messages > 0 ? 0.35 + 0.65 * (Math.log1p(messages) / Math.log1p(most)) : 1}
                />,
              ]
            : [],
        );
      })}
      <line x1={(y - x) * cell} y1={0} x2={(y - x + size) * cell} y2={SIDE} className={classes.diagonal} />
      <rect x={(column - x) * cell} y={0} width={cell} height={SIDE} className={classes.cross} />
      <rect x={0} y={(row - y) * cell} width={SIDE} height={cell} className={classes.cross} />
    </svg>
  );
}
