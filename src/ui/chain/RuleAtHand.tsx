'use client';

import { Button, SegmentedControl, Select, Switch } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import { KINDS } from '../../core/audit/kind-words';
import type { Edit } from '../../core/rules/edit';
import type { ChainView, Rung } from '../../server/chain/view';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber } from '../common/format';
import { RuleWords } from '../common/RuleWords';
import { WhyButton } from '../common/WhyButton';
import { ENDINGS } from './endings';
import { History } from './History';
import classes from './RuleAtHand.module.css';
import { moveBesideEdit, moveEdit } from './rule-moves';

interface Props {
  readonly auditId: string;
  readonly view: ChainView;
  readonly rung: Rung;
  /** The previewed change. */
  readonly trial: Edit | null;
  readonly setTrial: (trial: Edit | null) => void;
}

/** The selected rule: its sentence and numbers, and changes to preview. */
export function RuleAtHand({ auditId, view, rung, trial, setTrial }: Props) {
  const [side, setSide] = useState<'before' | 'after'>('before');
  const above = view.rungs[rung.place - 1];
  const second = view.rungs[rung.place + 2];
  const last = rung.place === view.rungs.length - 1;
  return (
    <aside className={classes.panel} aria-label="Selected rule">
      <h1 className={classes.name}>
        <bdi>{rung.name}</bdi>
      </h1>
      <RuleWords className={classes.sentence} rule={rung} />
      {rung.note && <p className={classes.note}>{rung.note}</p>}
      <p className={classes.ways}>
        {rung.kind === 'rule' && <Link href={`/audits/${auditId}/rule?rule=${rung.id}`}>edit this rule</Link>}
        <Link href={`/audits/${auditId}/rule?behind=${rung.id}`}>add a rule after this one</Link>
      </p>
      <Numbers auditId={auditId} rung={rung} view={view} />
      {rung.counts && <History auditId={auditId} rule={rung.id} chain={view} />}
      <div className={classes.controls}>
        <div className={classes.control}>
          <span>Place</span>
          <Button.Group>
            <WhyButton
              size="compact-sm"
              variant="default"
              why={!above ? 'This is the first rule.' : null}
              onClick={() => setTrial(moveEdit(view, rung.id, above?.id ?? null))}
            >
              Move up
            </WhyButton>
            <WhyButton
              size="compact-sm"
              variant="default"
              why={last ? 'This is the last rule.' : null}
              onClick={() => setTrial(moveEdit(view, rung.id, second?.id ?? null))}
            >
              Move down
            </WhyButton>
          </Button.Group>
          <SegmentedControl
            size="xs"
            aria-label="Before or after"
            value={side}
            data={['before', 'after']}
            onChange={(value) => setSide(value === 'after' ? 'after' : 'before')}
          />
          <Select
            size="xs"
            aria-label={`Move directly ${side}`}
            placeholder={`move directly ${side} …`}
            searchable
            value={null}
            data={view.rungs
              .filter(({ id }) => id !== rung.id)
              .map(({ id, place, name }) => ({ value: id, label: `${place + 1} ${name}` }))}
            onChange={(value) => value !== null && setTrial(moveBesideEdit(view, rung.id, value, side))}
            className={classes.select}
          />
        </div>
        {rung.ending && (
          <div className={classes.control}>
            <span>After acting</span>
            <SegmentedControl
              size="xs"
              value={trial?.kind === 'ending' ? trial.to : rung.ending}
              data={[...ENDINGS]}
              onChange={(value) => setTrial(endingEdit(rung, value))}
            />
          </div>
        )}
        {rung.kind === 'rule' && (view.accounts.length > 1 || rung.account !== null) && (
          <div className={classes.control}>
            <span>Applies to</span>
            <Select
              size="xs"
              aria-label="Mail this rule applies to"
              allowDeselect={false}
              value={trial?.kind === 'account' ? (trial.to ?? ALL) : (rung.account ?? ALL)}
              data={[
                { value: ALL, label: 'mail to any address' },
                ...[...new Set([...view.accounts, ...(rung.account ? [rung.account] : [])])].map((address) => ({
                  value: address,
                  label: `mail to ${address}`,
                })),
              ]}
              onChange={(value) => setTrial(accountEdit(rung, value === ALL ? null : value))}
              className={classes.concerns}
            />
          </div>
        )}
        <div className={classes.control}>
          <span>State</span>
          <Switch
            checked={trial?.kind === 'switch' ? trial.on : rung.on}
            onChange={(event) => {
              const on = event.currentTarget.checked;
              setTrial(on === rung.on ? null : { kind: 'switch', id: rung.id, on });
            }}
            label={rung.on ? 'is on' : 'is off'}
            size="sm"
          />
        </div>
      </div>
      {trial && <ChangePreview auditId={auditId} edits={[trial]} why="" onDone={() => setTrial(null)} />}
      <Named auditId={auditId} rung={rung} />
      <h2 className={classes.heading}>
        As Sieve <Link href={`/audits/${auditId}/script?rule=${rung.id}`}>edit this text</Link>
      </h2>
      <pre className={classes.code}>{rung.text}</pre>
    </aside>
  );
}

const SHOWN_FINDINGS = 7;

/** The findings that name the rule. */
function Named({ auditId, rung }: { auditId: string; rung: Rung }) {
  if (rung.findings.length === 0) return null;
  return (
    <>
      <h2 className={classes.heading}>Findings about this rule</h2>
      <ul className={classes.findings}>
        {rung.findings.slice(0, SHOWN_FINDINGS).map(({ key, kind, others }) => (
          <li key={key}>
            <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(key)}`}>{KINDS[kind].title}</Link>
            <span>{others.join(', ')}</span>
          </li>
        ))}
        {rung.findings.length > SHOWN_FINDINGS && <li>and {rung.findings.length - SHOWN_FINDINGS} more</li>}
      </ul>
    </>
  );
}

/** The select needs a value for “all accounts”. */
const ALL = '(all)';

function accountEdit({ id, account }: Rung, to: string | null): Edit | null {
  return account === to ? null : { kind: 'account', id, from: account, to };
}

function endingEdit(rung: Rung, value: string): Edit | null {
  const to = value === 'stop' ? 'stop' : 'continue';
  return rung.ending === null || rung.ending === to ? null : { kind: 'ending', id: rung.id, from: rung.ending, to };
}

function Numbers({ auditId, rung, view }: { auditId: string; rung: Rung; view: ChainView }) {
  const { counts } = rung;
  if (!counts)
    return <p className={classes.note}>The chain is not simulated yet, so there are no counts for this rule.</p>;
  const lines = [
    ['reached', 'reach this rule', counts.reached, view.total],
    ['held', 'match its tests', counts.held, view.total],
    ['exempt', 'are exempt', counts.exempt, counts.reached],
    ['fired', 'are acted on', counts.fired, counts.reached],
    ['stopped', 'stop here', counts.stopped, counts.fired],
  ] as const;
  return (
    <table className={classes.numbers}>
      <tbody>
        {lines.map(([part, words, count, whole]) => (
          <tr key={part}>
            <th scope="row">{words}</th>
            <td>
              <Link href={`/audits/${auditId}/mail?rule=${rung.id}&part=${part}`}>{formatNumber(count)}</Link>
            </td>
            <td className={classes.whole}>of {formatNumber(whole)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
