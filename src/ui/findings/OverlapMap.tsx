'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type KeyboardEvent, type MouseEvent, useMemo, useState } from 'react';
import { assumingWords } from '../../core/audit/wording';
import { elementAt } from '../../core/text/lookup';
import type { OverlapMapView, PairView } from '../../server/findings/overlaps-view';
import { formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { NoRules, Notice } from '../common/Notice';
import { Quoted } from '../common/Quoted';
import { Tabs } from './Filters';
import classes from './Findings.module.css';
import { type Extent, MapPicture } from './MapPicture';
import { PartsBar } from './PartsBar';
import { RuleList } from './RuleList';

interface Props {
  readonly auditId: string;
  readonly view: OverlapMapView;
  readonly pair: PairView | null;
}

/** The fewest rules shown at the highest zoom. */
const NEAREST = 12;

/** The rules × rules map in chain order: a mark where some message matches both. It can be zoomed. */
export function OverlapMap({ auditId, view, pair }: Props) {
  const router = useRouter();
  const { rules, pairs } = view;
  const [extent, setExtent] = useState<Extent>({ x: 0, y: 0, size: rules.length });
  const indexOf = (place: number) => rules.findIndex(({ id }) => id === pair?.rules[place]?.id);
  const [at, setAt] = useState<readonly [number, number]>(pair ? [indexOf(0), indexOf(1)] : [0, 0]);
  const marks = useMemo(
    () => new Map(pairs.map(([a, b, messages]) => [a * rules.length + b, messages])),
    [pairs, rules],
  );
  if (rules.length === 0) {
    return (
      <NoRules auditId={auditId}>
        A map shows which pairs of rules match the same mail, and where their order matters.
      </NoRules>
    );
  }
  if (!view.audited) return <Notice title="There are no findings yet">Overlaps appear once the audit ends.</Notice>;
  if (rules.length < 2) return <Notice title="Fewer than two rules">There is nothing to compare.</Notice>;

  const { x, y, size } = extent;
  const open = (a: number, b: number) => {
    const [first, second] = [rules[Math.min(a, b)], rules[Math.max(a, b)]];
    if (a !== b && first && second) {
      router.replace(`/audits/${auditId}/findings/overlaps?a=${first.id}&b=${second.id}`, { scroll: false });
    }
  };
  const zoom = (factor: number, [row, column] = at) => {
    const next = Math.max(Math.min(NEAREST, rules.length), Math.min(rules.length, Math.round(size * factor)));
    const place = (centre: number) => Math.max(0, Math.min(rules.length - next, Math.round(centre - next / 2)));
    setExtent({ x: place(column), y: place(row), size: next });
  };
  const underPointer = (event: MouseEvent<HTMLDivElement>): readonly [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    const place = (offset: number, from: number) =>
      Math.min(rules.length - 1, Math.max(0, from + Math.floor((offset / box.width) * size)));
    return [place(event.clientY - box.top, y), place(event.clientX - box.left, x)];
  };
  const onKey = (event: KeyboardEvent) => {
    const steps: Record<string, readonly [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
    };
    const step = steps[event.key];
    if (step) {
      const next = [at[0] + step[0], at[1] + step[1]].map((one) => Math.max(0, Math.min(rules.length - 1, one)));
      setAt([elementAt(next, 0), elementAt(next, 1)]);
    } else if (event.key === 'Enter') open(at[0], at[1]);
    else if (event.key === '+') zoom(0.5);
    else if (event.key === '-') zoom(2);
    else return;
    event.preventDefault();
  };
  const [row, column] = at;
  const [first, second] = [rules[Math.min(row, column)], rules[Math.max(row, column)]];
  const shown = marks.get(Math.min(row, column) * rules.length + Math.max(row, column));
  return (
    <div className={classes.page}>
      <section className={classes.mapPart} aria-label="Overlap map">
        <Tabs auditId={auditId} current="findings/overlaps" />
        <div className={classes.standing}>
          <Head
            action={
              <div className={classes.mapTools}>
                <Onward href={`/audits/${auditId}/findings?kind=order-conflict`}>See order conflicts</Onward>
                <Button.Group>
                  <Button size="compact-sm" variant="default" onClick={() => zoom(0.5)} aria-label="Zoom in">
                    +
                  </Button>
                  <Button size="compact-sm" variant="default" onClick={() => zoom(2)} aria-label="Zoom out">
                    −
                  </Button>
                  <Button
                    size="compact-sm"
                    variant="default"
                    onClick={() => setExtent({ x: 0, y: 0, size: rules.length })}
                  >
                    All
                  </Button>
                </Button.Group>
              </div>
            }
          >
            {formatPart(pairs.length + view.unlisted, (rules.length * (rules.length - 1)) / 2)} pairs overlap
          </Head>
        </div>
        {(view.unlisted > 0 || view.unasked > 0) && (
          <p className={classes.mapNote}>
            {view.unlisted > 0 &&
              `${formatNumber(view.unlisted)} of them, with no stored message that matches both, are not marked here. `}
            {view.unasked > 0 &&
              `${formatNumber(view.unasked)} pairs were not checked yet, and are checked when you open them.`}
          </p>
        )}
        <p className={classes.mapAt} aria-live="polite">
          {first && second && row !== column
            ? `${first.number} ${first.name} with ${second.number} ${second.name}: ${shown === undefined ? 'no overlap' : shown > 0 ? `${formatNumber(shown)} stored messages` : 'possible only'}`
            : 'Each row and each column is a rule; a mark is a pair of rules that match the same mail.'}
        </p>
        <div
          className={classes.mapFrame}
          tabIndex={0}
          role="application"
          aria-label="Map: arrow keys, plus, minus, Enter"
          onKeyDown={onKey}
          onPointerMove={(event) => setAt(underPointer(event))}
          onClick={(event) => open(...underPointer(event))}
          onWheel={(event) => zoom(event.deltaY < 0 ? 0.8 : 1.25)}
        >
          <MapPicture view={view} extent={extent} at={at} />
        </div>
        <p className={classes.legend}>
          <span className={classes.legendMet} /> both match stored mail <span className={classes.legendPossible} />{' '}
          possible only
        </p>
      </section>
      {pair ? (
        <Pair auditId={auditId} pair={pair} />
      ) : (
        <Notice title="No pair selected">
          <p>Select a mark with the pointer, or with the arrow keys and Enter. Details of the pair appear here.</p>
        </Notice>
      )}
    </div>
  );
}

const ORDER_WORDS = {
  alike: 'It makes no difference to any message that both match.',
  conflict:
    'It matters: if the second is moved directly before the first, this example message is treated differently.',
  undecided: 'Undecided whether it matters: no message was found to which it does.',
} as const;

function Pair({ auditId, pair }: { auditId: string; pair: PairView }) {
  const { rules, split, findings, madeUp, order } = pair;
  return (
    <article className={classes.detail}>
      <h1 className={classes.detailClaim}>{rules.map(({ name }) => name).join(' and ')}</h1>
      <RuleList auditId={auditId} rules={rules} />
      <PartsBar auditId={auditId} finding={{ split, rules }} />
      {madeUp?.answer === 'impossible' && (
        <p className={classes.certainty}>Proved: no message can match both. {assumingWords(madeUp.assumes)}</p>
      )}
      {madeUp?.answer === 'undecided' && (
        <p className={classes.certainty}>Undecided whether any message can match both: {madeUp.reason}.</p>
      )}
      {madeUp?.answer === 'possible' && order?.order !== 'conflict' && (
        <>
          <h2 className={classes.heading}>An example message that matches both</h2>
          <pre className={classes.witness} dir="auto">
            {madeUp.text}
          </pre>
        </>
      )}
      {order && <h2 className={classes.heading}>Their order</h2>}
      {order && <p className={classes.certainty}>{ORDER_WORDS[order.order]}</p>}
      {order?.order === 'conflict' && (
        <pre className={classes.witness} dir="auto">
          {order.text}
        </pre>
      )}
      {findings.length > 0 && <h2 className={classes.heading}>Findings about these rules</h2>}
      <ul className={classes.pairFindings}>
        {findings.map(({ key, claim }) => (
          <li key={key}>
            <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(key)}`}>
              <Quoted>{claim}</Quoted>
            </Link>
          </li>
        ))}
      </ul>
    </article>
  );
}
