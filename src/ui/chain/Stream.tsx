import type { ChainView, Rung } from '../../server/chain/view';
import { fillOf } from '../common/tints';

/** Width of the drawing, and of the stream when it carries all mail. */
const WIDTH = 150;
const FULL = 92;
const LEFT = 8;

interface Props {
  readonly rung: Pick<Rung, 'counts' | 'targets'>;
  readonly view: Pick<ChainView, 'total' | 'destinations'>;
  /** Messages that pass on to the next rung, or to the end of the chain. */
  readonly left: number;
  readonly ofChosen: { readonly here: number; readonly next: number } | null;
  readonly height: number;
}

/**
 * The piece of the stream beside one rung. The left bank is straight; on the right a rule that stops draws off a side
 * stream as wide as its mail, and a rule that continues draws a loop. The mail of the selected rule is highlighted
 * within the stream.
 */
export function Stream({ rung, view, left, ofChosen, height }: Props) {
  const { counts } = rung;
  if (!counts || view.total === 0) return <svg width={WIDTH} height={height} aria-hidden="true" />;
  const scale = FULL / view.total;
  const above = counts.passing * scale;
  const below = left * scale;
  const place = view.destinations.find(({ key }) => rung.targets.includes(key));
  return (
    <svg
      width={WIDTH}
      height={height}
      role="img"
      aria-label={`${counts.passing} messages reach this rule, ${counts.fired} are acted on`}
    >
      <title>{`${counts.passing} of ${view.total} messages reach this rule`}</title>
      <path d={bankPath(above, below, height)} fill="var(--stream)" />
      {ofChosen && ofChosen.here > 0 && (
        <path
          d={bankPath(visible(ofChosen.here * scale), visible(ofChosen.next * scale), height)}
          fill="var(--stream-chosen)"
        />
      )}
      {counts.stopped > 0 && <SideStream from={LEFT + below} to={LEFT + above} height={height} fill={fillOf(place)} />}
      {counts.fired > counts.stopped && (
        <Loop
          bank={LEFT + below}
          width={(counts.fired - counts.stopped) * scale}
          height={height}
          fill={fillOf(place)}
        />
      )}
    </svg>
  );
}

/** Even a little mail stays visible. */
const visible = (width: number): number => (width > 0 ? Math.max(2.5, width) : 0);

/** From the left bank, `above` wide at the top and `below` wide at the bottom. */
function bankPath(above: number, below: number, height: number): string {
  const [top, foot] = [LEFT + above, LEFT + below];
  return `M${LEFT} 0H${top}C${top} ${height * 0.5} ${foot} ${height * 0.4} ${foot} ${height}H${LEFT}Z`;
}

/** A side stream: from the right bank outwards. */
function SideStream({ from, to, height, fill }: { from: number; to: number; height: number; fill: string }) {
  const thick = Math.max(2, Math.min(to - from, height - 14));
  const top = height / 2 - thick / 2;
  const bottom = top + thick;
  return (
    <path
      d={`M${from} 0L${to} 0C${to} ${top} ${to + 6} ${top} ${to + 14} ${top}H${WIDTH}V${bottom}H${to + 4}C${from + 4} ${bottom} ${from} ${bottom - 4} ${from} 0Z`}
      fill={fill}
      stroke="var(--mantine-color-body)"
      strokeWidth="0.5"
    />
  );
}

/** A loop: outwards and back into the stream. */
function Loop({ bank, width, height, fill }: { bank: number; width: number; height: number; fill: string }) {
  const thick = Math.max(1.5, Math.min(width, 12));
  const reach = Math.min(WIDTH - 6, bank + 34);
  return (
    <path
      d={`M${bank - thick / 2} ${height * 0.16}C${reach} ${height * 0.16} ${reach} ${height * 0.84} ${bank - thick / 2} ${height * 0.84}`}
      fill="none"
      stroke={fill}
      strokeWidth={thick}
    />
  );
}
