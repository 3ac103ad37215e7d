'use client';

import { DndContext, type DragEndEvent, DragOverlay, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { Button, Menu, Select } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { ChainView, Rung } from '../../server/chain/view';
import type { ViewPath } from '../../views';
import { formatNumber, formatPart } from '../common/format';
import { NoRules } from '../common/Notice';
import { ofManyRules } from '../common/ofManyRules';
import classes from './Chain.module.css';
import { ChainMap } from './ChainMap';
import { ClockControl, Foot, SentControl } from './Controls';
import { FindRule } from './FindRule';
import { LENSES, type Lens, saying, stepped, through } from './lenses';
import { RuleAtHand } from './RuleAtHand';
import { RUNG_HEIGHT, RungRow } from './Rung';
import { dropEdit } from './rule-moves';
import { useRuleMail } from './useRuleMail';

const FOOT_HEIGHT = 120;

/** The rules as a ladder with the stream of mail, and the selected rule. */
function Chain({ auditId, view }: { auditId: string; view: ChainView }) {
  const [chosen, chooseRung] = useChosen(view);
  const [trial, setTrial] = useState<Edit | null>(null);
  const [lens, setLens] = useState<Lens>('order');
  const asked = useSearchParams().get('find') ?? '';
  const [words, setWords] = useState(asked);
  // A link to other words while the page is shown.
  useEffect(() => setWords(asked), [asked]);
  const [only, setOnly] = useState(false);
  const choose = (id: string) => {
    if (id !== chosen) setTrial(null);
    chooseRung(id);
  };
  const filter = only ? words : '';
  const shown = useMemo(() => through(view, lens, filter), [view, lens, filter]);
  const found = useMemo(() => shown.filter(saying(words)), [shown, words]);
  const rung = view.rungs.find(({ id }) => id === chosen) ?? view.rungs[0];
  if (view.rungs.length === 0) {
    return (
      <NoRules auditId={auditId} title="There are no rules yet">
        The chain shows each rule as a sentence, in the order they run, with the mail that each acts on and lets pass.
      </NoRules>
    );
  }
  const place = (edit: Edit | null, id: string) => {
    chooseRung(id);
    setTrial(edit);
  };
  return (
    <div className={classes.page}>
      <div className={classes.ladderSide}>
        <Summary auditId={auditId} view={view} />
        <div>
          <div className={classes.lenses}>
            <FindRule
              words={words}
              onWords={setWords}
              only={only}
              onOnly={setOnly}
              found={found.length}
              at={found.findIndex(({ id }) => id === rung?.id)}
              onStep={(step) => {
                const next = stepped(found, shown, rung?.id, step);
                if (next) choose(next.id);
              }}
            />
            <Select<Lens>
              size="xs"
              aria-label="Order of the rules"
              value={lens}
              data={LENSES.map(({ value, label }) => ({ value, label: `by ${label}` }))}
              onChange={(value) => value && setLens(value)}
              allowDeselect={false}
              className={classes.order}
            />
          </div>
          <div className={classes.mail}>
            <SentControl auditId={auditId} sent={view.sent} included={view.withSent} />
            {view.clock && <ClockControl key={view.clock.time} auditId={auditId} time={view.clock.time} />}
          </div>
        </div>
        <Ladder
          auditId={auditId}
          view={view}
          shown={shown}
          running={lens === 'order' && filter.trim() === ''}
          lens={lens}
          words={filter}
          found={found}
          rung={rung}
          onChoose={choose}
          onPlace={place}
        />
      </div>
      <ChainMap view={view} chosen={rung?.id ?? ''} onChoose={choose} />
      {rung && <RuleAtHand key={rung.id} auditId={auditId} view={view} rung={rung} trial={trial} setTrial={setTrial} />}
    </div>
  );
}

export const ChainFromText = ofManyRules(Chain);

interface LadderProps {
  readonly auditId: string;
  readonly view: ChainView;
  readonly shown: readonly Rung[];
  /** Whether rungs are in running order, so that the stream can be drawn and rules can be moved. */
  readonly running: boolean;
  readonly lens: Lens;
  /** The words by which rules are filtered. */
  readonly words: string;
  /** The rules that contain what is looked for. */
  readonly found: readonly Rung[];
  readonly rung: Rung | undefined;
  readonly onChoose: (id: string) => void;
  readonly onPlace: (edit: Edit | null, id: string) => void;
}

function Ladder({ auditId, view, shown, running, lens, words, found, rung, onChoose, onPlace }: LadderProps) {
  const [carried, setCarried] = useState<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: shown.length + (running ? 1 : 0),
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (index < shown.length ? RUNG_HEIGHT : FOOT_HEIGHT),
    overscan: 12,
  });
  const chosen = rung?.id;
  const place = useRef(-1);
  place.current = shown.findIndex(({ id }) => id === chosen);
  // Scrolls to the selected rule when the selection changes, and to the top when the filter changes.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a moved rung is no reason to scroll
  useEffect(() => {
    if (place.current >= 0) rows.scrollToIndex(place.current, { align: 'auto' });
  }, [chosen, rows]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another filter scrolls to the top
  useEffect(() => {
    if (!running) rows.scrollToOffset(0);
  }, [lens, words, rows]);
  const marked = useMemo(() => new Set(found.map(({ id }) => id)), [found]);
  const firstFound = found[0]?.id;
  // Typing scrolls to the first rule that contains the words; Enter selects it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what is found scrolls
  useEffect(() => {
    const at = shown.findIndex(({ id }) => id === firstFound);
    if (at >= 0) rows.scrollToIndex(at, { align: 'auto' });
  }, [firstFound, rows]);
  const ofChosen = useRuleMail(auditId, view.simulated ? chosen : undefined, view);
  // A press is not yet a drag, so that a rung can be selected by its grip too.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, j: 1, k: -1 }[event.key];
    if (!step || event.target !== event.currentTarget) return;
    event.preventDefault();
    const at = shown.findIndex(({ id }) => id === chosen);
    const next = shown[Math.max(0, Math.min(shown.length - 1, at + step))];
    if (!next) return;
    if (event.altKey && running && rung && next.id !== rung.id) onPlace(dropEdit(view, rung.id, next.id), rung.id);
    else if (!event.altKey) onChoose(next.id);
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    setCarried(null);
    const id = String(active.id);
    if (over && over.id !== active.id) onPlace(dropEdit(view, id, String(over.id)), id);
  };
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) => setCarried(String(active.id))}
      onDragEnd={onDragEnd}
      onDragCancel={() => setCarried(null)}
    >
      <div ref={scroller} className={classes.scroller} tabIndex={0} role="group" onKeyDown={onKey} aria-label="Chain">
        {shown.length === 0 && <p className={classes.summary}>No rule contains these words.</p>}
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const item = shown[index];
            const style = { position: 'absolute' as const, top: start, left: 0, right: 0 };
            if (!item) return <Foot key="foot" style={style} view={view} auditId={auditId} />;
            return (
              <RungRow
                key={item.id}
                auditId={auditId}
                rung={item}
                next={running ? (shown[index + 1] ?? null) : undefined}
                view={view}
                ofChosen={
                  ofChosen && {
                    here: ofChosen.passing[index] ?? 0,
                    next: ofChosen.passing[index + 1] ?? ofChosen.passing[index] ?? 0,
                  }
                }
                chosen={item.id === chosen}
                found={marked.has(item.id)}
                onChoose={onChoose}
                style={style}
              />
            );
          })}
        </div>
      </div>
      <DragOverlay>
        {carried && <span className={classes.carried}>{view.rungs.find(({ id }) => id === carried)?.name}</span>}
      </DragOverlay>
    </DndContext>
  );
}

function Summary({ auditId, view }: { auditId: string; view: ChainView }) {
  const off = view.rungs.filter((rung) => !rung.on).length;
  const dry = view.rungs.filter((rung) => rung.on && rung.counts?.fired === 0).length;
  return (
    <div className={classes.summary}>
      <span>
        <strong>{formatNumber(view.total)}</strong> messages pass <strong>{formatNumber(view.rungs.length)}</strong>{' '}
        rules
        {view.foot && (
          <>
            ; <Link href={`/audits/${auditId}/mail?passing=foot`}>{formatPart(view.foot.left, view.total)}</Link> reach
            the end of the chain; {formatPart(dry, view.rungs.length)} rules never act
          </>
        )}
        {off > 0 && `; ${formatPart(off, view.rungs.length)} are off`}
        {!view.simulated && view.total > 0 && '; not simulated yet'}
      </span>
      <Menu position="bottom-end">
        <Menu.Target>
          <Button size="compact-sm" variant="default">
            See and edit otherwise
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {OTHERWISE.map(({ path, words }) => (
            <Menu.Item key={path} component={Link} href={`/audits/${auditId}/${path}`}>
              {words}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </div>
  );
}

/** The views that show the same chain in another way. */
const OTHERWISE: readonly { readonly path: ViewPath; readonly words: string }[] = [
  { path: 'flows', words: 'Where mail goes' },
  { path: 'rules', words: 'Edit several rules' },
  { path: 'script', words: 'Edit as Sieve' },
  { path: 'sheet', words: 'Type rules in as a sheet' },
  { path: 'sentences', words: 'Type rules in as sentences' },
  { path: 'lists', words: 'Lists of addresses' },
];

/**
 * The selected rung is in the fragment of the address, so that it can be shared and returned to. A change of the query
 * would reload the page's data and lose an unfinished preview.
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
