'use client';

import { Layer, Rectangle, ResponsiveContainer, Sankey } from 'recharts';
import type { StreamsView } from '../../server/chain/flows-view';
import { formatNumber } from '../common/format';
import { fillOf } from '../common/tints';
import classes from './Flows.module.css';

/** Rules and destinations drawn individually; the rest are combined. */
const DRAWN = 16;
const OTHERS = '(others)';
const HEIGHT = 430;

interface Props {
  readonly view: StreamsView;
  readonly chosen: string;
  readonly onChoose: (destination: string) => void;
}

interface Node {
  readonly name: string;
  /** Null for a rule. */
  readonly destination: string | null;
}

/** The flow of mail from rules to destinations; widths are numbers of messages. */
export function Diagram({ view, chosen, onChoose }: Props) {
  const { nodes, links } = bandsOf(view);
  const places = new Map(view.destinations.map((destination) => [destination.key, destination]));
  const placeOf = (index: number) => places.get(nodes[index]?.destination ?? '');
  return (
    <figure className={classes.diagram} role="img" aria-label="The flow of mail from rules to destinations">
      <ResponsiveContainer width="100%" height={HEIGHT}>
        <Sankey
          data={{ nodes: nodes.map(({ name }) => ({ name })), links }}
          nodePadding={9}
          nodeWidth={9}
          margin={{ top: 6, right: 190, bottom: 6, left: 190 }}
          iterations={0}
          sort={false}
          node={({ x, y, width, height, index, payload }) => {
            const node = nodes[index];
            if (!node) return <g />;
            const right = node.destination !== null;
            const label = node.name.length > 26 ? `${node.name.slice(0, 25)}…` : node.name;
            return (
              <Layer>
                <Rectangle
                  x={x}
                  y={y}
                  width={width}
                  height={Math.max(1, height)}
                  fill={right ? fillOf(placeOf(index)) : 'var(--mantine-color-text)'}
                />
                <text
                  x={right ? x + width + 7 : x - 7}
                  y={y + height / 2 + 4}
                  textAnchor={right ? 'start' : 'end'}
                  className={classes.bandLabel}
                  fontWeight={node.destination === chosen ? 600 : 400}
                >
                  {label} <tspan fill="var(--ink-soft)">{formatNumber(payload.value)}</tspan>
                </text>
              </Layer>
            );
          }}
          link={({ sourceX, targetX, sourceY, targetY, sourceControlX, targetControlX, linkWidth, index }) => {
            const link = links[index];
            const destination = link ? (nodes[link.target]?.destination ?? '') : '';
            return (
              // biome-ignore lint/a11y/noStaticElementInteractions: the same can be chosen in the list beside it
              <path
                d={`M${sourceX},${sourceY}C${sourceControlX},${sourceY} ${targetControlX},${targetY} ${targetX},${targetY}`}
                fill="none"
                stroke="var(--stream)"
                strokeOpacity={destination === chosen ? 0.95 : 0.4}
                strokeWidth={Math.max(1, linkWidth)}
                onClick={() => destination !== OTHERS && onChoose(destination)}
              />
            );
          }}
        />
      </ResponsiveContainer>
    </figure>
  );
}

/** The largest rules individually, the rest combined, each with its destinations. */
function bandsOf({ links: all, destinations }: StreamsView) {
  const sums = new Map<string, number>();
  for (const { rule, name, count } of all) sums.set(rule ?? name, (sums.get(rule ?? name) ?? 0) + count);
  const drawn = new Set(
    [...sums]
      .sort(([, a], [, b]) => b - a)
      .slice(0, DRAWN)
      .map(([key]) => key),
  );
  const ends = destinations.filter(({ count }) => count > 0).sort((a, b) => b.count - a.count);
  const shown = new Map(ends.slice(0, DRAWN).map(({ key, label }) => [key, label]));
  const nodes: Node[] = [];
  const places = new Map<string, number>();
  const indexOf = (key: string, node: Node) => {
    const known = places.get(key);
    if (known !== undefined) return known;
    places.set(key, nodes.length);
    return nodes.push(node) - 1;
  };
  const links = new Map<string, { source: number; target: number; value: number }>();
  for (const { rule, name, destination, count } of all) {
    const own = rule ?? name;
    const source = drawn.has(own)
      ? indexOf(`rule ${own}`, { name, destination: null })
      : indexOf('other rules', { name: `${sums.size - drawn.size} other rules`, destination: null });
    const place = shown.has(destination) ? destination : OTHERS;
    const label = shown.get(place) ?? `${ends.length - shown.size} other destinations`;
    const target = indexOf(`place ${place}`, { name: label, destination: place });
    const link = links.get(`${source} ${target}`) ?? { source, target, value: 0 };
    link.value += count;
    links.set(`${source} ${target}`, link);
  }
  return { nodes, links: [...links.values()] };
}
