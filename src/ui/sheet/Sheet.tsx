'use client';

import { Button, Checkbox, FileButton, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Rule } from '../../core/rules/rule';
import {
  type CellFault,
  isBlank,
  named,
  ownColumn,
  ruleOfRow,
  SHEET_COLUMNS,
  type SheetColumn,
  type SheetRow,
} from '../../core/rules/sheet';
import { ownJson } from '../../core/text/lookup';
import { decodeText, readCsv } from '../../files/csv';
import type { SheetView } from '../../server/chain/sheet-view';
import { tell } from '../common/api';
import { formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import { useKeptText } from '../common/useKeptText';
import { WhyButton } from '../common/WhyButton';
import { AddRules } from '../typed/AddRules';
import { useTypedCounts } from '../typed/useTypedCounts';
import { Grid, type GridColumn, type RowState } from './Grid';
import { Mapping } from './Mapping';
import { QuickEntry } from './QuickEntry';
import classes from './Sheet.module.css';

/** Columns that most rules need. */
const USUAL = ['name', 'sender', 'recipient', 'subject', 'list', 'exceptSender', 'folder', 'flags', 'ending'];
const EMPTY_ROWS = 3;

/** The name of the rule first, then what was in use when the rows came in, then what most rules need. */
function columnsFor(
  rows: readonly SheetRow[],
  { first, added, all }: { first: ReadonlySet<string>; added: readonly SheetColumn[]; all: boolean },
): GridColumn[] {
  const isUsed = (id: SheetColumn) => rows.some((row) => row[id]);
  const inRows = rows.flatMap((row) => Object.keys(row).flatMap((id) => ownColumn(id) ?? []));
  const own = [...new Set([...added, ...inRows])].map((id) => ({
    id,
    title: id,
    hint: 'words in this header field, separated by ;',
  }));
  const [name, ...others] = SHEET_COLUMNS;
  const used = others.filter(({ id }) => first.has(id));
  const unused = others.filter(({ id }) => !first.has(id) && (all || USUAL.includes(id) || isUsed(id)));
  return [...(name ? [name] : []), ...used, ...own, ...unused];
}

/** Rules entered by hand, for users without a script: line by line, as a sheet, or from a file. */
export function Sheet({ auditId, view }: { auditId: string; view: SheetView }) {
  const beginning = useMemo(() => JSON.stringify(Array.from({ length: EMPTY_ROWS }, () => ({}))), []);
  const [text, keep, letGo] = useKeptText(`sheet ${auditId}`, beginning);
  const rows = useMemo(() => ownJson<SheetRow[]>(text), [text]);
  const [all, showAll] = useState(false);
  const [added, setAdded] = useState<readonly SheetColumn[]>([]);
  const [first, setFirst] = useState<ReadonlySet<string>>(new Set());
  // Columns do not change places under the hands of someone who types.
  const isTyped = useRef(false);
  useEffect(() => {
    if (!isTyped.current)
      setFirst(new Set(rows.flatMap((row) => Object.keys(row).filter((id) => row[id as SheetColumn]))));
  }, [rows]);
  const [file, setFile] = useState<readonly (readonly string[])[] | null>(null);
  const { refused } = view;
  const { own } = view.offers;
  // A row without a name is named by what it is about.
  const readings = useMemo(
    () => rows.map((row, at) => (isBlank(row) ? null : ruleOfRow(named(row), `new-${at}`, own))),
    [rows, own],
  );
  const wrong = readings.flatMap((reading, at) =>
    reading && !reading.ok ? reading.faults.map((fault) => ({ ...fault, at })) : [],
  );
  const rules = useMemo(() => readings.flatMap((reading): Rule[] => (reading?.ok ? [reading.rule] : [])), [readings]);
  const counts = useTypedCounts(auditId, rules);
  const countsOf = useMemo(() => new Map(rules.map((rule, at) => [rule, counts.rows?.[at]])), [rules, counts.rows]);
  const states = readings.map((reading): RowState => {
    if (!reading) return { marks: [], rule: null, counts: null };
    if (!reading.ok) return { marks: reading.faults, rule: null, counts: null };
    const { rule, warnings } = reading;
    return { marks: warnings, rule, counts: countsOf.get(rule) ?? null };
  });
  const put = (next: readonly SheetRow[]) => {
    keep(JSON.stringify(next));
  };
  const add = (more: readonly SheetRow[]) => {
    isTyped.current = false;
    const written = rows.filter((row) => !isBlank(row));
    put([...written, ...more, {}]);
  };
  const open = async (chosen: File | null) => {
    if (!chosen) return;
    try {
      const read = readCsv(decodeText(new Uint8Array(await chosen.arrayBuffer())));
      if (read.odd.length > 0) tell(`${chosen.name}: ${read.odd.join('; ')}.`);
      if (read.rows.length === 0) tell(`${chosen.name} contains no rows.`);
      else setFile(read.rows);
    } catch {
      tell(`${chosen.name} could not be read.`);
    }
  };
  return (
    <div className={classes.page}>
      <header className={classes.head}>
        <h1 className={classes.title}>
          {formatNumber(rules.length)} {rules.length === 1 ? 'rule' : 'rules'} typed in
        </h1>
        <FileButton onChange={open} accept=".csv,.tsv,.txt,text/csv,text/tab-separated-values">
          {({ onClick }) => (
            <Button size="compact-sm" variant="default" onClick={onClick}>
              Open a sheet (CSV)
            </Button>
          )}
        </FileButton>
        <a href={`/api/audits/${auditId}/sheet`}>download the rules of the draft as a sheet</a>
        <WithoutBlocks auditId={auditId} blocks={view.blocks} />
        <Link href={`/audits/${auditId}/sentences`}>in sentences instead</Link>
        <OwnColumnForm onAdd={(column) => setAdded([...added, column])} />
        <Checkbox
          size="xs"
          className={classes.toggle}
          label="all columns"
          checked={all}
          onChange={(event) => showAll(event.currentTarget.checked)}
        />
      </header>
      {refused && refused.rows.length > 0 && (
        <p className={classes.refused}>
          {formatNumber(refused.rows.length)} {refused.rows.length === 1 ? 'row' : 'rows'} of “{refused.fileName}”{' '}
          {refused.rows.length === 1 ? 'was' : 'were'} rejected.{' '}
          <Button size="compact-xs" onClick={() => add(refused.rows.map(named))}>
            {refused.rows.length === 1 ? 'Correct it here' : 'Correct them here'}
          </Button>
        </p>
      )}
      {file ? (
        <Mapping
          rows={file}
          onDone={(more) => {
            setFile(null);
            if (more) add(more);
          }}
        />
      ) : (
        <QuickEntry offers={view.offers} onAdd={(row) => add([row])} />
      )}
      <Grid
        auditId={auditId}
        columns={columnsFor(rows, { first, added, all })}
        rows={rows}
        states={states}
        total={counts.total}
        offers={view.offers}
        onChange={(next) => {
          isTyped.current = true;
          put(next);
        }}
      />
      <footer className={classes.foot}>
        <WrongCells wrong={wrong} />
        {counts.isTooMany && <p className={classes.soft}>So many rules are counted after you add them.</p>}
        <AddRules
          auditId={auditId}
          entries={view.entries}
          rules={rules}
          obstacle={wrong.length > 0 ? 'Correct the marked cells first; nothing is added until then.' : null}
          why="Typed in."
          onAdded={letGo}
        >
          {text !== beginning && <TextButton onClick={() => put(ownJson(beginning))}>clear the sheet</TextButton>}
        </AddRules>
      </footer>
    </div>
  );
}

/** Adds a column for words in a header field. */
function OwnColumnForm({ onAdd }: { onAdd: (column: SheetColumn) => void }) {
  const [name, setName] = useState('');
  const column = ownColumn(`Field ${name}`);
  return (
    <form
      className={classes.own}
      onSubmit={(event) => {
        event.preventDefault();
        if (!column) return;
        onAdd(column);
        setName('');
      }}
    >
      <TextInput
        size="xs"
        aria-label="Header field for a column of its own"
        placeholder="header field, such as X-Tag"
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <WhyButton
        size="compact-sm"
        variant="default"
        type="submit"
        why={!column ? 'Enter the name of a header field that has no column yet.' : null}
      >
        Add column
      </WhyButton>
    </form>
  );
}

/** The rules that a sheet cannot express, and why. */
function WithoutBlocks({ auditId, blocks }: { auditId: string; blocks: SheetView['blocks'] }) {
  if (blocks.length === 0) return null;
  return (
    <details className={classes.soft}>
      <summary>
        without {formatNumber(blocks.length)} script {blocks.length === 1 ? 'block' : 'blocks'}
      </summary>
      <ul>
        {blocks.map(({ id, name, reason }) => (
          <li key={id}>
            <Link href={`/audits/${auditId}/chain#${id}`}>
              <bdi>{name}</bdi>
            </Link>
            : {reason}
          </li>
        ))}
      </ul>
    </details>
  );
}

const SHOWN = 8;

/** Errors in the sheet, by the row and the column. */
function WrongCells({ wrong }: { wrong: readonly (CellFault & { readonly at: number })[] }) {
  if (wrong.length === 0) return null;
  return (
    <ul className={classes.faults} aria-label="Errors in the sheet">
      {wrong.slice(0, SHOWN).map(({ at, column, words }) => (
        <li key={`${at} ${column} ${words}`}>
          Row {at + 1}, {SHEET_COLUMNS.find(({ id }) => id === column)?.title}: {words}
        </li>
      ))}
      {wrong.length > SHOWN && <li>and {formatNumber(wrong.length - SHOWN)} more</li>}
    </ul>
  );
}
