import { SegmentedControl, Switch, Textarea, TextInput } from '@mantine/core';
import { ON_THE_DESK, type RuleFault } from '../../core/repair/rule-faults';
import { closed } from '../../core/repair/tree-edits';
import { accountOf, forAccount } from '../../core/rules/lists';
import type { Rule } from '../../core/rules/rule';
import type { RuleOffers } from '../../server/chain/rule-view';
import { ENDINGS } from '../chain/endings';
import { ActionsEditor } from './ActionsEditor';
import { Choice, Names } from './fields';
import classes from './RuleDesk.module.css';
import { Faults, TreeEditor } from './TreeEditor';

interface Props {
  readonly rule: Rule;
  readonly faults: readonly RuleFault[];
  /** Whether it can be linked to a rule before it. */
  readonly mayLink: boolean;
  readonly offers: RuleOffers;
  readonly put: (rule: Rule) => void;
}

/** The parts of a rule as a form. */
export function RuleForm({ rule, faults, mayLink, offers, put }: Props) {
  return (
    <>
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
      <div className={classes.nameFault}>
        <Faults faults={faults} at="name" />
      </div>
      {mayLink && (
        <div className={classes.row}>
          <span>Tried</span>
          <SegmentedControl<Rule['link']>
            size="xs"
            aria-label="When the rule is tried"
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
          <span>Applies to mail to</span>
          <Choice
            label="Account this rule applies to"
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
        <span>After acting</span>
        <SegmentedControl<Rule['ending']>
          size="xs"
          aria-label="After acting"
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
    </>
  );
}
