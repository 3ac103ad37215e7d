import { elementAt } from '../../core/text/lookup';
import type { Destination } from '../../server/chain/destinations';

/** The style of axes and tooltips in every chart. */
export const TICK = { fill: 'var(--ink-soft)', fontSize: 12 };
export const TOOLTIP = {
  background: 'var(--mantine-color-body)',
  border: '1px solid var(--hairline-strong)',
  padding: '2px 8px',
  color: 'inherit',
};

/**
 * Destinations keep one colour and one pattern everywhere. Seven muted hues that stay apart for colour-blind people
 * (after the qualitative scheme of Okabe and Ito, darkened and greyed), times five patterns.
 */
const HUES = ['#b07f1e', '#4f6f94', '#6d7f35', '#a4543c', '#7d567c', '#3b8079', '#7c664b'];
const PATTERNS = ['solid', 'rising', 'dots', 'level', 'falling'] as const;
const COUNT = HUES.length * PATTERNS.length;

function idOf(destination: Pick<Destination, 'kind' | 'tint'>): string {
  if (destination.kind === 'inbox') return 'tint-inbox';
  if (destination.kind === 'dropped') return 'tint-dropped';
  if (destination.kind === 'refused') return 'tint-refused';
  return `tint-${destination.tint % COUNT}`;
}

export const fillOf = (destination: Pick<Destination, 'kind' | 'tint'> | undefined): string =>
  destination ? `url(#${idOf(destination)})` : 'var(--hairline-strong)';

/** The patterns, drawn once for a page. */
export function TintPatterns() {
  return (
    <svg width="0" height="0" style={{ position: 'absolute' }} aria-hidden="true">
      <title>patterns</title>
      <defs>
        <pattern id="tint-inbox" width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill="var(--stream)" />
        </pattern>
        <pattern id="tint-dropped" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill="var(--mantine-color-body)" />
          <path d="M0 0L6 6M6 0L0 6" stroke="var(--mantine-color-text)" strokeWidth="1" />
        </pattern>
        <pattern id="tint-refused" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill="var(--mantine-color-body)" />
          <path d="M0 0L6 6" stroke="var(--mantine-color-text)" strokeWidth="1" />
        </pattern>
        {Array.from({ length: COUNT }, (_, tint) => (
          <TintPattern key={HUES[tint % HUES.length] + String(tint)} tint={tint} />
        ))}
      </defs>
    </svg>
  );
}

function TintPattern({ tint }: { tint: number }) {
  const hue = elementAt(HUES, tint % HUES.length);
  const pattern = PATTERNS[(tint + Math.floor(tint / HUES.length)) % PATTERNS.length];
  const light = 'rgb(255 255 255 / 55%)';
  return (
    <pattern id={`tint-${tint}`} width="6" height="6" patternUnits="userSpaceOnUse">
      <rect width="6" height="6" fill={hue} />
      {pattern === 'rising' && <path d="M-1 1L1 -1M0 6L6 0M5 7L7 5" stroke={light} strokeWidth="1.4" />}
      {pattern === 'falling' && <path d="M-1 5L1 7M0 0L6 6M5 -1L7 1" stroke={light} strokeWidth="1.4" />}
      {pattern === 'dots' && <circle cx="3" cy="3" r="1.4" fill={light} />}
      {pattern === 'level' && <path d="M0 3H6" stroke={light} strokeWidth="1.6" />}
    </pattern>
  );
}

/** The mark of a destination beside its name. */
export function Swatch({ destination }: { destination: Pick<Destination, 'kind' | 'tint'> | undefined }) {
  return (
    <svg width="12" height="12" aria-hidden="true" style={{ flex: 'none', verticalAlign: '-1px' }}>
      <title>pattern of the destination</title>
      <rect x="0.5" y="0.5" width="11" height="11" fill={fillOf(destination)} stroke="var(--hairline-strong)" />
    </svg>
  );
}
