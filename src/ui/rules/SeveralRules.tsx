'use client';

import { Autocomplete, Checkbox, Select, TextInput } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useMemo, useRef, useState } from 'react';
import { type BulkChange, bulkEdits } from '../../core/repair/bulk';
import type { Chain } from '../../core/rules/rule';
import type { ChainView, Rung } from '../../server/chain/view';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber, formatPart } from '../common/format';
import { NoRules } from '../common/Notice';
import { ofManyRules } from '../common/ofManyRules';
import { WhyButton } from '../common/WhyButton';
import classes from './SeveralRules.module.css';

const ROW_HEIGHT = 46;

interface Props {
  readonly auditId: string;
  readonly view: ChainView;
  readonly chain: Chain;
}

/** A list of rules to select from, and actions on the selected ones, with a preview. */
function SeveralRules({ auditId, view, chain }: Props) {
  const [words, setWords] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [change, setChange] = useState<BulkChange | null>(null);
  const shown = useMemo(() => {
    const sought = words.trim().toLowerCase();
    return view.rungs.filter(({ name, sentence, tags }) =>
      `${name} ${sentence} ${tags.join(' ')}`.toLowerCase().includes(sought),
    );
  }, [view, words]);
  const ids = view.rungs.filter(({ id }) => chosen.has(id)).map(({ id }) => id);
  const choose = (some: readonly string[], isChosen: boolean) => {
    const next = new Set(chosen);
    for (const id of some) {
      if (isChosen) next.add(id);
      else next.delete(id);
    }
    setChosen(next);
    setChange(null);
  };
  if (view.rungs.length === 0) {
    return (
      <NoRules auditId={auditId} title="There are no rules yet">
        Here several rules are changed at once, with the effect shown beforehand.
      </NoRules>
    );
  }
  const all = shown.every(({ id }) => chosen.has(id));
  return (
    <div className={classes.page}>
      <section className={classes.left} aria-label="Rules">
        <header className={classes.head}>
          <h1 className={classes.title}>{formatPart(ids.length, view.rungs.length)} rules selected</h1>
          <TextInput
            size="xs"
            aria-label="Filter"
            placeholder="filter by words …"
            value={words}
            onChange={(event) => setWords(event.currentTarget.value)}
          />
        </header>
        <div className={classes.all}>
          <Checkbox
            size="xs"
            label={words.trim() === '' ? 'all rules' : `all ${formatNumber(shown.length)} shown`}
            checked={all && shown.length > 0}
            indeterminate={!all && shown.some(({ id }) => chosen.has(id))}
            onChange={(event) =>
              choose(
                shown.map(({ id }) => id),
                event.currentTarget.checked,
              )
            }
          />
          <Link href={`/audits/${auditId}/chain`}>back to the chain</Link>
        </div>
        <Rows auditId={auditId} view={view} shown={shown} chosen={chosen} onChoose={choose} />
      </section>
      <section className={classes.right} aria-label="Action">
        <h2 className={classes.heading}>Selected rules</h2>
        {ids.length === 0 && <p className={classes.soft}>Select rules on the left, by a click or with Space.</p>}
        <Changes view={view} chosen={chosen} disabled={ids.length === 0} onChange={setChange} />
        {change && ids.length > 0 && (
          <Outcome
            auditId={auditId}
            chain={chain}
            ids={ids}
            change={change}
            onDone={() => setChange(null)}
            onMade={() => {
              setChange(null);
              setChosen(new Set());
            }}
          />
        )}
      </section>
    </div>
  );
}

export const SeveralRulesFromText = ofManyRules(SeveralRules);

interface RowsProps {
  readonly auditId: string;
  readonly view: ChainView;
  readonly shown: readonly Rung[];
  readonly chosen: ReadonlySet<string>;
  readonly onChoose: (ids: readonly string[], isChosen: boolean) => void;
}

function Rows({ auditId, view, shown, chosen, onChoose }: RowsProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 20,
  });
  return (
    <div ref={scroller} className={classes.scroller} tabIndex={0} role="group" aria-label="The list of rules">
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const rung = shown[index];
          if (!rung) return null;
          return (
            <div
              key={rung.id}
              className={classes.row}
              data-chosen={chosen.has(rung.id) || undefined}
              style={{ position: 'absolute', top: start, left: 0, right: 0 }}
            >
              <Checkbox
                size="xs"
                aria-label={`Select ${rung.name}`}
                checked={chosen.has(rung.id)}
                onChange={(event) => onChoose([rung.id], event.currentTarget.checked)}
              />
              <span className={classes.place}>{rung.place + 1}</span>
              <span className={classes.words}>
                <Link href={`/audits/${auditId}/chain#${encodeURIComponent(rung.id)}`} dir="auto">
                  <bdi>{rung.name}</bdi>
                </Link>
                {!rung.on && <em> off</em>}
                {rung.tags.length > 0 && <em> {rung.tags.join(', ')}</em>}
                <span className={classes.sentence}>{rung.sentence}</span>
              </span>
              <span className={classes.number}>
                {rung.counts && (
                  <Link href={`/audits/${auditId}/mail?rule=${rung.id}&part=fired`}>
                    {formatNumber(rung.counts.fired)}
                  </Link>
                )}
                {rung.counts && ` of ${formatNumber(view.total)}`}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

interface ChangesProps {
  readonly view: ChainView;
  readonly chosen: ReadonlySet<string>;
  readonly disabled: boolean;
  readonly onChange: (change: BulkChange) => void;
}

const END = '(end)';

function Changes({ view, chosen, disabled, onChange }: ChangesProps) {
  const changes: readonly { readonly words: string; readonly change: BulkChange }[] = [
    { words: 'switch on', change: { change: 'switch', on: true } },
    { words: 'switch off', change: { change: 'switch', on: false } },
    { words: 'let the rules stop', change: { change: 'ending', to: 'stop' } },
    { words: 'let the rules continue', change: { change: 'ending', to: 'continue' } },
    { words: 'merge into one rule', change: { change: 'merge' } },
    { words: 'remove', change: { change: 'remove' } },
  ];
  return (
    <div className={classes.changes}>
      {changes.map(({ words, change }) => (
        <WhyButton
          key={words}
          size="compact-sm"
          variant="default"
          why={disabled ? NONE_SELECTED : null}
          onClick={() => onChange(change)}
        >
          {words}
        </WhyButton>
      ))}
      <Tag view={view} disabled={disabled} onChange={onChange} />
      <Select
        size="xs"
        aria-label="Move directly before"
        placeholder="move directly before …"
        searchable
        disabled={disabled}
        value={null}
        data={[
          ...view.rungs
            .filter(({ id }) => !chosen.has(id))
            .map(({ id, place, name }) => ({ value: id, label: `${place + 1} ${name}` })),
          { value: END, label: 'the end of the chain' },
        ]}
        onChange={(value) => value && onChange({ change: 'move', before: value === END ? null : value })}
      />
    </div>
  );
}

const NONE_SELECTED = 'Select rules first.';

/** A tag to add to the selected rules, or to remove. */
function Tag({ view, disabled, onChange }: Omit<ChangesProps, 'chosen'>) {
  const [tag, setTag] = useState('');
  const known = [...new Set(view.rungs.flatMap(({ tags }) => tags))].sort((a, b) => a.localeCompare(b));
  const unnamed = disabled ? NONE_SELECTED : tag.trim() === '' ? 'Enter a tag.' : null;
  return (
    <div className={classes.tag}>
      <Autocomplete
        size="xs"
        aria-label="Tag"
        placeholder="a tag"
        data={known}
        maxLength={100}
        disabled={disabled}
        value={tag}
        onChange={setTag}
      />
      <WhyButton
        size="compact-sm"
        variant="default"
        why={unnamed}
        onClick={() => onChange({ change: 'tag', tag, on: true })}
      >
        add tag
      </WhyButton>
      <WhyButton
        size="compact-sm"
        variant="default"
        why={unnamed}
        onClick={() => onChange({ change: 'tag', tag, on: false })}
      >
        remove tag
      </WhyButton>
    </div>
  );
}

interface OutcomeProps {
  readonly auditId: string;
  readonly chain: Chain;
  readonly ids: readonly string[];
  readonly change: BulkChange;
  readonly onDone: () => void;
  readonly onMade: () => void;
}

function Outcome({ auditId, chain, ids, change, onDone, onMade }: OutcomeProps) {
  const found = useMemo(() => bulkEdits(chain, ids, change), [chain, ids, change]);
  if (!found.ok) return <p className={classes.failure}>{found.words}</p>;
  if (found.edits.length === 0) return <p className={classes.soft}>These rules already have that setting.</p>;
  return <ChangePreview auditId={auditId} edits={found.edits} why="" onDone={onDone} onMade={onMade} />;
}
