'use client';

import { Button, Loader } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { assuming } from '../../core/audit/wording';
import type { FindingView, RepairView, TrialView } from '../../server/findings/finding-view';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber, formatPart } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { trialPath } from '../common/mailPaths';
import { Quoted } from '../common/Quoted';
import { TextButton } from '../common/TextButton';
import classes from './Findings.module.css';
import { useBasket } from './Together';
import { useTrying } from './useTrying';

/** The repairs of a finding, each with its computed effect, best first. */
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
  if (repairs.length === 0) return null;
  return (
    <section aria-label="Repairs">
      <h2 className={classes.heading}>
        Repairs{' '}
        {trying && (
          <span className={classes.trying} aria-live="polite">
            previewing each <Loader size="xs" type="dots" component="span" />
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
              Preview
            </Button>
            <div className={classes.repairWords}>
              <span>
                <Quoted>{one.title}</Quoted>
              </span>
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
              title="Apply several repairs as one change"
            >
              {gathered?.title === one.title ? 'in the batch' : 'add to batch'}
            </TextButton>
          </li>
        ))}
      </ul>
      {basket.length > 0 && (
        <p>
          <Link href={`/audits/${auditId}/findings/together`}>
            {basket.length === 1 ? 'One repair is' : `${formatNumber(basket.length)} repairs are`} in the batch
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

/** The effect of a repair in one line. */
export function Trial({ trial }: { trial: TrialView }) {
  const { ends, worse, ended, brought, verdict, breaks } = trial;
  const others = ended - (ends ? 1 : 0);
  const said = [
    ends ? 'resolves this finding' : 'does not resolve this finding',
    ...(others > 0 ? [`resolves ${formatNumber(others)} more`] : []),
    worse.length > 0
      ? `adds ${formatNumber(worse.length)} graver`
      : brought > 0
        ? `adds ${formatNumber(brought)}, none graver`
        : 'adds none',
    ...(verdict?.verdict === 'equivalent' ? [assuming('no message is treated differently', verdict.assumes)] : []),
    ...(breaks.length > 0 ? [`breaks the expectation ${breaks.map((name) => `“${name}”`).join(', ')}`] : []),
  ];
  const good = ends && worse.length === 0 && breaks.length === 0;
  return (
    <span className={classes.trial} data-good={good || undefined} title={worse.map(({ claim }) => claim).join('\n')}>
      {said.join(', ')}
    </span>
  );
}
