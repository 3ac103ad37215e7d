import { ActionIcon, TextInput } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { ACTION_BEGINNINGS, withPart } from '../../core/repair/action-forms';
import type { RuleFault } from '../../core/repair/rule-faults';
import type { Action } from '../../core/rules/rule';
import type { RuleOffers } from '../../server/chain/rule-view';
import { FurtherActionFields } from './FurtherActionFields';
import { AddMenu, Choice, FLAGS, FolderField, Marked, Names, Tick } from './fields';
import classes from './RuleDesk.module.css';
import { Faults } from './TreeEditor';

interface Props {
  readonly actions: readonly Action[];
  readonly faults: readonly RuleFault[];
  readonly offers: RuleOffers;
  readonly onChange: (actions: readonly Action[]) => void;
  /** An action that no server supports, kept as a note. */
  readonly onDesk: () => void;
}

/** The actions of a rule, in order. */
export function ActionsEditor({ actions, faults, offers, onChange, onDesk }: Props) {
  return (
    <>
      <h2 className={classes.heading}>Then</h2>
      <Faults faults={faults} at="actions" />
      {actions.map((action, index) => (
        <div key={index}>
          <div className={classes.node}>
            <ActionEditor action={action} offers={offers} put={(made) => onChange(actions.with(index, made))} />
            <ActionIcon
              variant="subtle"
              size="sm"
              aria-label="Remove this action"
              onClick={() => onChange(actions.toSpliced(index, 1))}
            >
              <IconX size={14} aria-hidden="true" />
            </ActionIcon>
          </div>
          <Faults faults={faults} at={`actions.${index}`} />
        </div>
      ))}
      <div className={classes.add}>
        <AddMenu
          words="an action"
          items={[
            ...ACTION_BEGINNINGS.map(({ title, begin }) => ({ title, add: () => onChange([...actions, begin]) })),
            { title: 'something in the mail program', hint: 'such as a sound: kept as a note', add: onDesk },
          ]}
        />
      </div>
    </>
  );
}

interface OneProps {
  readonly action: Action;
  readonly offers: RuleOffers;
  readonly put: (action: Action) => void;
}

const MARKING = [
  { value: 'addflag', label: 'mark as' },
  { value: 'removeflag', label: 'remove the flag' },
  { value: 'setflag', label: 'set the flags to' },
] as const;

function ActionEditor({ action, offers, put }: OneProps) {
  switch (action.action) {
    case 'keep':
      return (
        <div className={classes.leaf}>
          <span className={classes.fixed}>keep in the inbox</span>
          <Marked flags={action.flags} onChange={(flags) => put({ ...action, flags })} />
        </div>
      );
    case 'fileinto':
      return (
        <div className={classes.leaf}>
          <span className={classes.fixed}>file into</span>
          <FolderField
            label="Folder"
            placeholder="existing or new folder"
            folder={action.folder}
            offers={offers.folders}
            onChange={(folder) => put({ ...action, folder })}
          />
          <Tick
            label="as a copy: the message is kept elsewhere too"
            checked={action.copy}
            onChange={(copy) => put({ ...action, copy: copy === true })}
          />
          <Tick
            label="create the folder if it is missing"
            checked={action.create}
            onChange={(create) => put(withPart(action, 'create', create))}
          />
          <Marked flags={action.flags} onChange={(flags) => put({ ...action, flags })} />
        </div>
      );
    case 'redirect':
      return (
        <div className={classes.leaf}>
          <span className={classes.fixed}>redirect to</span>
          <TextInput
            size="xs"
            aria-label="Address"
            placeholder="name@domain"
            className={classes.headers}
            value={action.address}
            onChange={(event) => put({ ...action, address: event.currentTarget.value })}
          />
          <Tick
            label="keep the message here too"
            checked={action.copy}
            onChange={(copy) => put({ ...action, copy: copy === true })}
          />
        </div>
      );
    case 'addflag':
    case 'removeflag':
    case 'setflag':
      return (
        <div className={classes.leaf}>
          <Choice
            label="Flags"
            wide
            value={action.action}
            choices={MARKING}
            onChange={(value) => put({ ...action, action: value })}
          />
          <Names
            label="Flags and keywords"
            names={action.flags}
            offers={FLAGS}
            onChange={(flags) => put({ ...action, flags })}
          />
        </div>
      );
    case 'discard':
      return <span className={classes.fixed}>discard: the message is kept nowhere unless another rule keeps it</span>;
    default:
      return <FurtherActionFields action={action} offers={offers} put={put} />;
  }
}
