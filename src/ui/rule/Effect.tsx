import { Loader } from '@mantine/core';
import Link from 'next/link';
import { closed } from '../../core/repair/tree-edits';
import type { Edit } from '../../core/rules/edit';
import { conditionOf, type Rule } from '../../core/rules/rule';
import type { Sample, TrialEffect } from '../../server/chain/trial-view';
import { formatDay, formatNumber, formatPart } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { heldPath, trialPath } from '../common/mailPaths';
import { RuleWords } from '../common/RuleWords';
import classes from './RuleDesk.module.css';
import type { Trial } from './useTrial';

/** The sentence and effect of the rule being edited, always current. */
export function Effect({ auditId, rule, trial }: { auditId: string; rule: Rule; trial: Trial }) {
  const { view, failure, isCurrent } = trial;
  if (failure) return <p className={classes.failure}>{failure}</p>;
  if (!view) return <Loader size="xs" type="dots" />;
  return (
    <div aria-busy={!isCurrent} className={classes.told}>
      {!isCurrent && <Loader size="xs" type="dots" className={classes.working} />}
      <RuleWords className={classes.sentence} rule={view} />
      {view.effect ? (
        <Counts auditId={auditId} effect={view.effect} rule={rule} edits={view.counted ?? []} />
      ) : (
        <p className={classes.soft}>
          {view.counted === null
            ? 'The effect on stored mail appears once the rule is complete.'
            : 'Calculating the effect on stored mail.'}
        </p>
      )}
    </div>
  );
}

type CountOf = (effect: TrialEffect) => number;
const PARTS: readonly { readonly part: Sample['part']; readonly title: string; readonly count: CountOf }[] = [
  { part: 'gained', title: 'Newly acted on', count: ({ gained }) => gained },
  { part: 'lost', title: 'No longer acted on', count: ({ lost }) => lost },
  { part: 'kept', title: 'Still acted on', count: ({ fires, gained }) => fires - gained },
];

interface CountsProps {
  readonly auditId: string;
  readonly effect: TrialEffect;
  readonly rule: Rule;
  /** What makes the rule act on it. */
  readonly edits: readonly Edit[];
}

function Counts({ auditId, effect, rule, edits }: CountsProps) {
  const { total, held, fires, untaken, gained, lost, changed, samples } = effect;
  const to = (does: 'fired' | 'untaken' | 'gained' | 'lost') => trialPath(auditId, edits, { written: rule.id, does });
  return (
    <>
      <p className={classes.count}>
        It acts on <MaybeLink path={to('fired')}>{formatPart(fires, total)}</MaybeLink> messages
      </p>
      <ul className={classes.counts}>
        <li>
          Its tests match{' '}
          <MaybeLink path={heldPath(auditId, conditionOf(closed(rule)))}>{formatPart(held, total)}</MaybeLink>, whether
          or not they reach the rule.
        </li>
        <li>
          <MaybeLink path={to('untaken')}>{formatPart(untaken, fires)}</MaybeLink> of them are mail that no rule acts on
          now.
        </li>
        <li>
          Compared with the saved rule: <MaybeLink path={to('gained')}>{formatNumber(gained)}</MaybeLink> gained,{' '}
          <MaybeLink path={to('lost')}>{formatNumber(lost)}</MaybeLink> lost;{' '}
          <MaybeLink path={trialPath(auditId, edits)}>{formatPart(changed, total)}</MaybeLink> have a different
          destination.
        </li>
      </ul>
      {PARTS.map(({ part, title, count }) => {
        const shown = samples.filter((sample) => sample.part === part);
        if (shown.length === 0) return null;
        return (
          <section key={part} aria-label={title}>
            <h2 className={classes.heading}>{title}</h2>
            <ul className={classes.samples}>
              {shown.map(({ row, before, after, evidence }) => (
                <li key={row.number}>
                  <Link href={`/audits/${auditId}/mail/${row.number}`} dir="auto">
                    {row.subject || '(no subject)'}
                  </Link>
                  <span className={classes.soft}>
                    {row.from || row.fromAddress}, {formatDay(row.date)}:{' '}
                    {before === after ? before : `${before} → ${after}`}
                  </span>
                  {evidence.length > 0 && <mark className={classes.evidence}>{evidence.join('; ')}</mark>}
                </li>
              ))}
            </ul>
            {count(effect) > shown.length && (
              <p className={classes.soft}>
                the newest {formatNumber(shown.length)} of {formatNumber(count(effect))}
              </p>
            )}
          </section>
        );
      })}
    </>
  );
}
