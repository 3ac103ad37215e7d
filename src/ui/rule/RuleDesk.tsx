'use client';

import { TextInput } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { opened } from '../../core/repair/tree-edits';
import type { Edit } from '../../core/rules/edit';
import type { Rule } from '../../core/rules/rule';
import { ownJson } from '../../core/text/lookup';
import type { RuleDeskView } from '../../server/chain/rule-view';
import type { Broken } from '../../server/changes/expectations';
import { call, tell } from '../common/api';
import { Foresight } from '../common/Foresight';
import { Stopped } from '../common/Stopped';
import { useKeptText } from '../common/useKeptText';
import { WhyButton } from '../common/WhyButton';
import { AsSieve } from './AsSieve';
import { Effect } from './Effect';
import classes from './RuleDesk.module.css';
import { RuleForm } from './RuleForm';
import { useTrial } from './useTrial';

/** The rule editor: the parts on the left, sentence and effect on the right. */
export function RuleDesk({ auditId, view }: { auditId: string; view: RuleDeskView }) {
  // The rule as it was when editing began, whatever happens to the chain meanwhile.
  const [{ rule: begun, changes, behind, before, mayLink, offers }] = useState(view);
  const router = useRouter();
  const key = `rule ${auditId} ${changes ?? `after ${behind}`}`;
  // A new rule gets a new id each time, which must not discard the unfinished text.
  const beginning = useMemo(() => JSON.stringify({ ...opened(begun), id: changes ?? 'new' }), [begun, changes]);
  const [kept, keep, letGo] = useKeptText(key, beginning);
  const rule = useMemo((): Rule => ({ ...ownJson<Rule>(kept), id: begun.id }), [kept, begun.id]);
  const put = (made: Rule) => keep(JSON.stringify({ ...opened(made), id: changes ?? 'new' }));
  const [why, setWhy] = useState('');
  const [saving, setSaving] = useState(false);
  const trial = useTrial({ auditId, rule, begun: changes === null ? null : begun, behind });
  /** What only a proof shows arrives later, for the text of that time. */
  const [late, setLate] = useState<{ readonly of: string; readonly broken: readonly Broken[] } | null>(null);
  const broken = late?.of === kept && late.broken.length > 0 ? late.broken : (trial.view?.broken ?? []);
  const faults = trial.view?.faults ?? [];
  const edits = trial.isCurrent ? trial.view?.edits : null;
  const back = `/audits/${auditId}/chain#${encodeURIComponent(changes ?? behind ?? '')}`;
  const make = async () => {
    if (!edits || edits.length === 0) return;
    setSaving(true);
    try {
      await call(`/api/audits/${auditId}/edits`, 'POST', { edits, why });
      letGo();
      router.push(`/audits/${auditId}/chain#${encodeURIComponent(rule.id)}`);
      router.refresh();
    } catch (error) {
      tell(error);
      setSaving(false);
    }
  };
  return (
    <div className={classes.page}>
      <section className={classes.form} aria-label="The rule">
        <header className={classes.head}>
          <h1 className={classes.title}>
            {changes === null ? 'A new rule' : `Change “${begun.name}”`}
            <span className={classes.soft}>
              {before === null ? ' at the beginning of the chain' : ` after “${before}”`}
            </span>
          </h1>
          {changes !== null && (
            <Link href={`/audits/${auditId}/refile?rule=${encodeURIComponent(begun.id)}`}>apply to stored mail</Link>
          )}
          <Link href={back}>back to the chain</Link>
        </header>
        <RuleForm rule={rule} faults={faults} mayLink={mayLink} offers={offers} put={put} />
      </section>
      <section className={classes.effect} aria-label="What it does">
        <Effect auditId={auditId} rule={rule} trial={trial} />
        {broken.length > 0 && <Stopped auditId={auditId} broken={broken} />}
        {edits && edits.length > 0 && trial.view?.effect && (
          <Foresight auditId={auditId} edits={edits} onBroken={(found) => setLate({ of: kept, broken: found })} />
        )}
        <div className={classes.make}>
          <TextInput
            size="xs"
            aria-label="Reason for the change"
            placeholder="reason, for the history"
            value={why}
            onChange={(event) => setWhy(event.currentTarget.value)}
          />
          <WhyButton size="compact-sm" onClick={make} loading={saving} why={whyNot(edits, broken)}>
            {changes === null ? 'Add rule' : 'Apply'}
          </WhyButton>
          <WhyButton
            size="compact-sm"
            variant="subtle"
            why={kept === beginning ? 'Nothing is changed.' : null}
            onClick={() => keep(beginning)}
          >
            Reset
          </WhyButton>
        </div>
        <h2 className={classes.heading}>As Sieve</h2>
        <AsSieve rule={rule} text={trial.view?.text ?? ''} onChange={put} />
      </section>
    </div>
  );
}

/** Why a rule cannot be added or changed yet; null if it can. */
function whyNot(edits: readonly Edit[] | null | undefined, broken: readonly Broken[]): string | null {
  if (!edits) return 'The rule has faults, or its effect is being worked out.';
  if (edits.length === 0) return 'Nothing is changed.';
  return broken.length > 0 ? 'It would break the expectations above.' : null;
}
