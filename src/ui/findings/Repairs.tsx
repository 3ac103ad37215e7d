'use client';

import { Button, Loader } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { KINDS } from '../../core/audit/wording';
import type { FindingView, RepairView, TrialView } from '../../server/findings/finding-view';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber, formatPart } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { trialPath } from '../common/mailPaths';
import { TextButton } from '../common/TextButton';
import classes from './Findings.module.css';
import { useBasket } from './Together';
import { useTrying } from './useTrying';

/** All that could be done about a finding, each tried beforehand, the best first. */
export function Repairs({ auditId, finding }: { auditId: string; finding: FindingView }) {
  const [chosen, choose] = useState<string | null>(null);
  const [basket, setBasket] = useBasket(auditId);
  const router = useRouter();
  const { repairs } = finding;
  const trying = useTrying(auditId, finding);
  const repair = repairs.find(({ title }) => title === chosen);
  const gathered = basket.find((one) => one.finding === finding.key);
  const gather = ({ title, edits }: RepairView) => {
    const others = basket.filter((one) => one.finding !== finding.key);
    const out = gathered?.title === title;
    setBasket(out ? others : [...others, { finding: finding.key, claim: finding.claim, title, edits }]);
  };
  if (repairs.length === 0) return <p className={classes.certainty}>{KINDS[finding.kind].meaning}</p>;
  return (
    <section aria-label="What could be done">
      <h2 className={classes.heading}>
        What could be done{' '}
        {trying && (
          <span className={classes.trying} aria-live="polite">
            each is being tried <Loader size="xs" type="dots" component="span" />
          </span>
        )}
      </h2>
      <ul className={classes.repairs}>
        {repairs.map((one) => (
          <li key={one.title}>
            <Button
              size="compact-sm"
              variant={one.title === chosen ? 'filled' : 'default'}
              onClick={() => choose(one.title === chosen ? null : one.title)}
              aria-pressed={one.title === chosen}
            >
              Look at it
            </Button>
            <div className={classes.repairWords}>
              <span>{one.title}</span>
              {one.trial && <Trial trial={one.trial} />}
            </div>
            <span className={classes.effect}>
              {one.changed === null ? (
                'effect not known'
              ) : (
                <>
                  changes{' '}
                  <MaybeLink path={trialPath(auditId, one.edits)}>{formatPart(one.changed, finding.total)}</MaybeLink>
                </>
              )}
            </span>
            <TextButton
              aria-pressed={gathered?.title === one.title}
              onClick={() => gather(one)}
              title="Take several repairs as one change"
            >
              {gathered?.title === one.title ? 'taken with others' : 'take with others'}
            </TextButton>
          </li>
        ))}
      </ul>
      {basket.length > 0 && (
        <p>
          <Link href={`/audits/${auditId}/findings/together`}>
            {basket.length === 1 ? 'One repair is' : `${formatNumber(basket.length)} repairs are`} taken together
          </Link>
        </p>
      )}
      {repair && (
        <ChangePreview
          auditId={auditId}
          edits={repair.edits}
          why={finding.claim}
          onDone={() => {
            choose(null);
            router.refresh();
          }}
        />
      )}
    </section>
  );
}

/** What a repair was seen to do, in a line. */
export function Trial({ trial }: { trial: TrialView }) {
  const { ends, worse, ended, brought, verdict, breaks } = trial;
  const others = ended - (ends ? 1 : 0);
  const said = [
    ends ? 'ends it' : 'does not end it',
    ...(others > 0 ? [`ends ${formatNumber(others)} more`] : []),
    worse.length > 0
      ? `brings ${formatNumber(worse.length)} graver`
      : brought > 0
        ? `brings ${formatNumber(brought)}, none graver`
        : 'brings none',
    ...(verdict?.verdict === 'equivalent' ? ['no message can be treated differently'] : []),
    ...(breaks.length > 0 ? [`breaks the expectation ${breaks.map((name) => `“${name}”`).join(', ')}`] : []),
  ];
  const good = ends && worse.length === 0 && breaks.length === 0;
  return (
    <span className={classes.trial} data-good={good || undefined} title={worse.map(({ claim }) => claim).join('\n')}>
      {said.join(', ')}
    </span>
  );
}
