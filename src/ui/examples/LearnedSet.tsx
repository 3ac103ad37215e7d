'use client';

import { Checkbox, SegmentedControl, VisuallyHidden } from '@mantine/core';
import Link from 'next/link';
import { type ReactNode, useMemo, useState } from 'react';
import { conditionOf } from '../../core/rules/rule';
import type { LearnedRow, LearnedSetView } from '../../server/changes/learned-view';
import { formatNumber, formatPart } from '../common/format';
import { Head } from '../common/Head';
import { heldPath } from '../common/mailPaths';
import { Quoted } from '../common/Quoted';
import { TextButton } from '../common/TextButton';
import { AddRules } from '../typed/AddRules';
import classes from './Examples.module.css';
import { Unwanted } from './Unwanted';

/** All rules that the user's filing suggests, ticked and made together. */
export function LearnedSet({ auditId, view }: { auditId: string; view: LearnedSetView }) {
  const { rows, older, newer, draft, entries } = view;
  const [out, leaveOut] = useState<ReadonlySet<string>>(new Set());
  const [where, setWhere] = useState<'behind' | 'instead'>('behind');
  const rules = useMemo(() => rows.flatMap(({ rule }) => (out.has(rule.id) ? [] : [rule])), [rows, out]);
  const unwanted = <Unwanted auditId={auditId} senders={view.unwanted} entries={entries} />;
  if (rows.length === 0) return <NothingLearned auditId={auditId}>{unwanted}</NothingLearned>;
  const toggle = (id: string) => {
    const next = new Set(out);
    if (!next.delete(id)) next.add(id);
    leaveOut(next);
  };
  return (
    <div className={classes.filing}>
      <Head>
        {formatNumber(rows.length)} {rows.length === 1 ? 'rule' : 'rules'} from your filing would file{' '}
        {formatPart(newer.right, newer.filed)} newer messages as you did
      </Head>
      <p>
        Learned from the older {formatNumber(older.messages)} messages, and tried on the newer{' '}
        {formatNumber(newer.messages)}, which they were not learned from: {formatNumber(newer.left)} are left over, and{' '}
        {formatNumber(newer.wrong)} messages would be filed elsewhere than they are.
      </p>
      <p className={classes.soft}>
        The rules run in this order, and each ends the chain.{' '}
        <TextButton onClick={() => leaveOut(new Set())}>tick all</TextButton> ·{' '}
        <TextButton onClick={() => leaveOut(new Set(rows.map(({ rule }) => rule.id)))}>tick none</TextButton>
      </p>
      <table className={classes.learned}>
        <thead>
          <tr>
            <th>
              <VisuallyHidden>Make it</VisuallyHidden>
            </th>
            <th>Rule</th>
            <th title="Of the older mail: filed where it is, of all that the rule covers">older mail, right</th>
            <th title="The same of the newer mail, which it was not learned from">newer mail, right</th>
            <th title="Newer mail that would be filed elsewhere than it is">wrong</th>
            <th title="Newer mail in this folder that no rule covers">left over</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Row key={row.rule.id} auditId={auditId} row={row} isOut={out.has(row.rule.id)} onToggle={toggle} />
          ))}
        </tbody>
      </table>
      {draft && entries > 0 && (
        <SegmentedControl<'behind' | 'instead'>
          size="xs"
          aria-label="Where the rules are made"
          value={where}
          data={[
            { value: 'behind', label: `after the ${formatNumber(entries)} rules of the draft` },
            { value: 'instead', label: 'instead of them, as a new chain' },
          ]}
          onChange={setWhere}
        />
      )}
      <AddRules
        auditId={auditId}
        entries={entries}
        replaced={where === 'instead' ? (draft ?? []) : []}
        rules={rules}
        obstacle={null}
        why="Learned from your filing."
        onAdded={() => {}}
      />
      {unwanted}
    </div>
  );
}

interface RowProps {
  readonly auditId: string;
  readonly row: LearnedRow;
  readonly isOut: boolean;
  readonly onToggle: (id: string) => void;
}

function Row({ auditId, row: { rule, sentence, older, newer }, isOut, onToggle }: RowProps) {
  const path = heldPath(auditId, conditionOf(rule));
  const right = formatPart(newer.right, newer.right + newer.wrong);
  return (
    <tr>
      <td>
        <Checkbox size="xs" aria-label={`Make “${rule.name}”`} checked={!isOut} onChange={() => onToggle(rule.id)} />
      </td>
      <td>
        <Quoted>{sentence}</Quoted>
      </td>
      <td>{formatPart(older.right, older.right + older.wrong)}</td>
      <td>{newer.right + newer.wrong === 0 ? 'no such mail' : path ? <Link href={path}>{right}</Link> : right}</td>
      <td>{formatNumber(newer.wrong)}</td>
      <td>{formatNumber(newer.left)}</td>
    </tr>
  );
}

function NothingLearned({ auditId, children }: { auditId: string; children: ReactNode }) {
  return (
    <div className={classes.filing}>
      <h1 className={classes.title}>Your filing suggests no rules</h1>
      <p>
        Rules are learned from mail in folders other than the inbox: at least four messages of one sender, domain or
        list in one folder. Import such mail on <Link href={`/audits/${auditId}/gather`}>Gather</Link>.
      </p>
      {children}
    </div>
  );
}
