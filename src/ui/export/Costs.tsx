import { Button, Checkbox, SegmentedControl } from '@mantine/core';
import Link from 'next/link';
import { notPortableKey } from '../../core/handover/not-portable';
import type { Unsayable } from '../../core/handover/rewrite';
import type { CostLine, ExportView } from '../../server/handover/export-view';
import { formatNumber, formatPart } from '../common/format';
import { Quoted } from '../common/Quoted';
import classes from './Export.module.css';
import type { HandoverChange } from './handoverChange';

const WAYS: Readonly<Record<Unsayable, string>> = {
  'left out': 'leave the rule out',
  'as a comment': 'keep the rule as a comment',
  without: 'export the rest of the rule',
};

interface Props {
  readonly auditId: string;
  readonly view: ExportView;
  readonly settings: ExportView['settings'];
  readonly onSet: (change: HandoverChange) => void;
}

/**
 * The differences of the script, rule by rule: what replaces the rule, its effect on stored mail, and the user's
 * decision.
 */
export function Costs({ auditId, view, settings, onSet }: Props) {
  const { costs, total, verification } = view;
  const isAccepted = ({ keys }: CostLine) => keys.every((key) => settings.accepted.includes(key));
  if (costs.length === 0) {
    return <p className={classes.soft}>Every rule can be exported unchanged.</p>;
  }
  const accept = (keys: readonly string[], accepted: boolean) => {
    const others = settings.accepted.filter((key) => !keys.includes(key));
    onSet({ accepted: accepted ? [...others, ...keys] : others });
  };
  const decide = (id: string, way: Unsayable) =>
    onSet({ choices: { ...settings.choices, unsayable: { ...settings.choices.unsayable, [id]: way } } });
  const open = costs.filter((cost) => cost.ways.length === 0 && !isAccepted(cost) && !cost.none);
  return (
    <section aria-label="Differences in the script">
      <h2 className={classes.heading}>Differences: {formatNumber(costs.length)} rules</h2>
      {verification === null && <p className={classes.soft}>Messages are counted when the script is verified.</p>}
      {open.length > 1 && (
        <Button
          size="compact-sm"
          variant="default"
          onClick={() =>
            accept(
              open.flatMap(({ keys }) => keys),
              true,
            )
          }
        >
          Accept all {formatNumber(open.length)} open
        </Button>
      )}
      <ul className={classes.costs}>
        {costs.map((cost) => (
          <li key={cost.id}>
            <Link href={`/audits/${auditId}/chain#${encodeURIComponent(cost.id)}`}>
              <bdi>{cost.name}</bdi>
            </Link>
            {cost.words.map((words) => (
              <p key={words}>
                <Quoted>{words}</Quoted>
              </p>
            ))}
            <Weighed auditId={auditId} cost={cost} total={total} />
            {cost.ways.length > 0 ? (
              <SegmentedControl<Unsayable | ''>
                size="xs"
                aria-label={`What to do with ${cost.name}`}
                value={settings.choices.unsayable[cost.id] ?? ''}
                data={cost.ways.map((way) => ({ value: way, label: WAYS[way] }))}
                onChange={(way) => way !== '' && decide(cost.id, way)}
              />
            ) : (
              !cost.none && (
                <Checkbox
                  size="xs"
                  label="accepted"
                  aria-label={`accepted: ${cost.name}`}
                  checked={isAccepted(cost)}
                  onChange={(event) => accept(cost.keys, event.currentTarget.checked)}
                />
              )
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Weighed({ auditId, cost, total }: { auditId: string; cost: CostLine; total: number }) {
  const { messages, none, sample } = cost;
  if (messages === null) return null;
  if (none) return <p className={classes.soft}>Proved: this changes the destination of no message.</p>;
  return (
    <p className={classes.soft}>
      {messages === 0 ? (
        'No stored message'
      ) : (
        <>
          <Link href={`/audits/${auditId}/mail?finding=${encodeURIComponent(notPortableKey(cost.id))}`}>
            {formatPart(messages, total)}
          </Link>{' '}
          stored messages
        </>
      )}{' '}
      would have a different destination
      {sample.map(({ number, subject }) => (
        <span key={number}>
          , <Link href={`/audits/${auditId}/mail/${number}`}>{subject || '(no subject)'}</Link>
        </span>
      ))}
      .
    </p>
  );
}
