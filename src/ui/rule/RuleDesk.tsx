'use client';

import { Button, SegmentedControl, Switch, Textarea, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { ON_THE_DESK } from '../../core/repair/rule-faults';
import { closed, opened } from '../../core/repair/tree-edits';
import { accountOf, forAccount } from '../../core/rules/account';
import type { Rule } from '../../core/rules/rule';
import type { RuleDeskView } from '../../server/chain/rule-view';
import type { Broken } from '../../server/changes/expectations';
import { ENDINGS } from '../chain/endings';
import { call, tell } from '../common/api';
import { Foresight } from '../common/Foresight';
import { Stopped } from '../common/Stopped';
import { useKeptText } from '../common/useKeptText';
import { ActionsEditor } from './ActionsEditor';
import { AsSieve } from './AsSieve';
import { Effect } from './Effect';
import { Choice, Names } from './fields';
import classes from './RuleDesk.module.css';
import { Faults, TreeEditor } from './TreeEditor';
import { useTrial } from './useTrial';

/** A rule, made or changed: on the left its parts, on the right what it says and does, always current. */
export function RuleDesk({ auditId, view }: { auditId: string; view: RuleDeskView }) {
  // What is written stays what it was when writing began, whatever else happens to the chain meanwhile.
  const [{ rule: begun, changes, behind, before, mayLink, offers }] = useState(view);
  const router = useRouter();
  const key = `rule ${auditId} ${changes ?? `behind ${behind}`}`;
  // A new rule has another id each time it is begun, which is no reason to forget what was written.
  const beginning = useMemo(() => JSON.stringify({ ...opened(begun), id: changes ?? 'new' }), [begun, changes]);
  const [kept, keep, letGo] = useKeptText(key, beginning);
  const rule = useMemo((): Rule => ({ ...(JSON.parse(kept) as Rule), id: begun.id }), [kept, begun.id]);
  const put = (made: Rule) => keep(JSON.stringify({ ...opened(made), id: changes ?? 'new' }));
  const [why, setWhy] = useState('');
  const [saving, setSaving] = useState(false);
  const trial = useTrial({ auditId, rule, begun: changes === null ? null : begun, behind });
  /** What only reasoning shows is known later, of what was written then. */
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
              {before === null ? ' at the head of the chain' : ` behind “${before}”`}
            </span>
          </h1>
          <Link href={back}>back to the chain</Link>
        </header>
        <div className={classes.fields}>
          <TextInput
            size="xs"
            label="Name"
            value={rule.name}
            onChange={(event) => put({ ...rule, name: event.currentTarget.value })}
          />
          <Textarea
            size="xs"
            label="Note"
            autosize
            minRows={1}
            maxRows={5}
            value={rule.note}
            onChange={(event) => put({ ...rule, note: event.currentTarget.value })}
          />
          <Names
            label="Tags"
            placeholder="tags to find it by"
            names={rule.tags ?? []}
            offers={offers.tags}
            onChange={(tags) => put({ ...rule, tags })}
          />
        </div>
        <Faults faults={faults} at="name" />
        {mayLink && (
          <div className={classes.row}>
            <span>It is tried</span>
            <SegmentedControl<Rule['link']>
              size="xs"
              aria-label="When it is tried"
              value={rule.link}
              data={[
                { value: 'always', label: 'always' },
                { value: 'otherwise', label: 'only if the one before did not act' },
              ]}
              onChange={(link) => put({ ...rule, link })}
            />
          </div>
        )}
        {offers.own.length > 1 && (
          <div className={classes.row}>
            <span>It concerns mail to</span>
            <Choice
              label="The account it concerns"
              wide
              value={accountOf(closed(rule)) ?? ''}
              choices={[
                { value: '', label: 'any address' },
                ...offers.own.map((address) => ({ value: address, label: address })),
              ]}
              onChange={(address) => put(forAccount(closed(rule), address === '' ? null : address))}
            />
          </div>
        )}
        <TreeEditor rule={rule} faults={faults} offers={offers} onChange={put} />
        <ActionsEditor
          actions={rule.actions}
          faults={faults}
          offers={offers}
          onChange={(actions) => put({ ...rule, actions })}
          onDesk={() => put({ ...rule, note: `${rule.note}\n${ON_THE_DESK} play a sound`.trim() })}
        />
        <div className={classes.row}>
          <span>After it acts</span>
          <SegmentedControl<Rule['ending']>
            size="xs"
            aria-label="After it acts"
            value={rule.ending}
            data={[...ENDINGS]}
            onChange={(ending) => put({ ...rule, ending })}
          />
          <Switch
            size="xs"
            label={rule.on ? 'is on' : 'is off'}
            checked={rule.on}
            onChange={(event) => put({ ...rule, on: event.currentTarget.checked })}
          />
        </div>
        <Faults faults={faults} at="" />
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
            aria-label="Why it is changed"
            placeholder="why, for the history"
            value={why}
            onChange={(event) => setWhy(event.currentTarget.value)}
          />
          <Button
            size="compact-sm"
            onClick={make}
            loading={saving}
            disabled={!edits || edits.length === 0 || broken.length > 0}
          >
            {changes === null ? 'Add this rule' : 'Make this change'}
          </Button>
          <Button size="compact-sm" variant="subtle" disabled={kept === beginning} onClick={() => keep(beginning)}>
            Begin again
          </Button>
        </div>
        <h2 className={classes.heading}>As Sieve</h2>
        <AsSieve rule={rule} text={trial.view?.text ?? ''} onChange={put} />
      </section>
    </div>
  );
}
