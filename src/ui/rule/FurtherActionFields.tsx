import { Autocomplete, NumberInput, Textarea, TextInput } from '@mantine/core';
import { type ReactNode, useState } from 'react';
import { ACTION_FORMS, withPart } from '../../core/repair/action-forms';
import { readWrittenAction } from '../../core/rules/as-written';
import type { FiledCopy, FurtherAction, FurtherActionName, RedirectFurther } from '../../core/rules/further-actions';
import { wordsOfAction } from '../../core/rules/nodes';
import type { Action } from '../../core/rules/rule';
import type { RuleOffers } from '../../server/chain/rule-view';
import { TextButton } from '../common/TextButton';
import { AsWritten, Choice, FolderField, Marked, Names, Tick, USES } from './fields';
import { Keys } from './Keys';
import classes from './RuleDesk.module.css';

type Of<Name extends FurtherActionName> = Extract<FurtherAction, { action: Name }>;
type Fields<Name extends FurtherActionName> = (
  action: Of<Name>,
  put: (action: Of<Name>) => void,
  offers: RuleOffers,
) => ReactNode;

/** The fields of each further action; empty fields are omitted. */
const FIELDS: { readonly [Name in FurtherActionName]: Fields<Name> } = {
  vacation: (action, put, offers) => (
    <>
      <Period period={action.period} put={(period) => put(withPart(action, 'period', period))} />
      <Block label="Text of the reply" value={action.reason} onChange={(reason) => put({ ...action, reason })} />
      <Line label="Subject" value={action.subject} onChange={(subject) => put(withPart(action, 'subject', subject))} />
      <Line label="From" value={action.from} onChange={(from) => put(withPart(action, 'from', from))} />
      <Keys
        label="addresses"
        placeholder="also for mail to …"
        keys={action.addresses ?? []}
        offers={offers.own}
        onChange={(addresses) => put(withPart(action, 'addresses', orNone(addresses)))}
      />
      <Line
        label="Counted separately, under this name"
        value={action.handle}
        onChange={(handle) => put(withPart(action, 'handle', handle))}
      />
      <Tick
        label="the text is a MIME part"
        checked={action.mime}
        onChange={(mime) => put(withPart(action, 'mime', mime))}
      />
      <SentCopy copy={action.fcc} put={(fcc) => put(withPart(action, 'fcc', fcc))} />
    </>
  ),
  notify: (action, put) => (
    <>
      <Line label="Method, as a URI" value={action.method} onChange={(method = '') => put({ ...action, method })} />
      <MaybeChoice
        label="Importance"
        value={action.importance}
        choices={[
          { value: '1', label: 'high' },
          { value: '2', label: 'normal' },
          { value: '3', label: 'low' },
        ]}
        onChange={(importance) => put(withPart(action, 'importance', importance))}
      />
      <Line label="Message" value={action.message} onChange={(message) => put(withPart(action, 'message', message))} />
      <Line label="From" value={action.from} onChange={(from) => put(withPart(action, 'from', from))} />
      <Names
        label="Options of the method"
        placeholder="option=value"
        names={action.options ?? []}
        offers={[]}
        onChange={(options) => put(withPart(action, 'options', orNone(options)))}
      />
      <SentCopy copy={action.fcc} put={(fcc) => put(withPart(action, 'fcc', fcc))} />
    </>
  ),
  reject: (action, put) => (
    <Block label="Text to the sender" value={action.reason} onChange={(reason) => put({ ...action, reason })} />
  ),
  ereject: (action, put) => (
    <Block label="Text to the sender" value={action.reason} onChange={(reason) => put({ ...action, reason })} />
  ),
  'fileinto-use': (action, put, offers) => (
    <>
      <Use use={action.use} onChange={(use) => put({ ...action, use })} />
      <FolderField
        label="Folder if none has that use"
        placeholder="or else into"
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
    </>
  ),
  'redirect-further': (action, put) => (
    <>
      <Line
        label={action.list ? 'List of the server' : 'Address'}
        value={action.address}
        onChange={(address = '') => put({ ...action, address })}
      />
      <Tick
        label="to everyone in a list kept by the server"
        checked={action.list}
        onChange={(list) => put(withPart(action, 'list', list))}
      />
      <Tick
        label="keep the message here too"
        checked={action.copy}
        onChange={(copy) => put({ ...action, copy: copy === true })}
      />
      <Names
        label="Delivery notices"
        placeholder="delivery notices"
        names={action.notify ?? []}
        offers={['NEVER', 'SUCCESS', 'FAILURE', 'DELAY']}
        onChange={(notify) => put(withPart(action, 'notify', orNone(notify)))}
      />
      <MaybeChoice
        label="What the notices return"
        value={action.ret}
        choices={[
          { value: 'FULL', label: 'whole message' },
          { value: 'HDRS', label: 'headers only' },
        ]}
        onChange={(ret) => put(withPart(action, 'ret', ret))}
      />
      <DeliverBy by={action.by} put={(by) => put(withPart(action, 'by', by))} />
    </>
  ),
  replace: (action, put) => (
    <>
      <Block label="New body" value={action.text} onChange={(text) => put({ ...action, text })} />
      <Line label="Subject" value={action.subject} onChange={(subject) => put(withPart(action, 'subject', subject))} />
      <Line label="From" value={action.from} onChange={(from) => put(withPart(action, 'from', from))} />
      <Tick
        label="the text is a MIME part"
        checked={action.mime}
        onChange={(mime) => put(withPart(action, 'mime', mime))}
      />
    </>
  ),
  enclose: (action, put) => (
    <>
      <Block label="Text before the message" value={action.text} onChange={(text) => put({ ...action, text })} />
      <Line label="Subject" value={action.subject} onChange={(subject) => put(withPart(action, 'subject', subject))} />
      <Keys
        label="further headers"
        placeholder="Name: value"
        keys={action.headers ?? []}
        onChange={(headers) => put(withPart(action, 'headers', orNone(headers)))}
      />
    </>
  ),
  convert: (action, put) => (
    <>
      <Line label="From the type" value={action.from} onChange={(from = '') => put({ ...action, from })} />
      <Line label="Into the type" value={action.to} onChange={(to = '') => put({ ...action, to })} />
      <Keys label="parameters" keys={action.parameters} onChange={(parameters) => put({ ...action, parameters })} />
    </>
  ),
  error: (action, put) => (
    <Block label="Error text" value={action.message} onChange={(message) => put({ ...action, message })} />
  ),
};

/** The same table for any name; each row gets only actions of its own kind. */
const FIELDS_OF = FIELDS as { readonly [Name in FurtherActionName]: Fields<FurtherActionName> };

interface Props {
  readonly action: FurtherAction;
  readonly offers: RuleOffers;
  readonly put: (action: Action) => void;
}

/** A further action by its fields, or as Sieve. */
export function FurtherActionFields({ action, offers, put }: Props) {
  const [asSieve, setAsSieve] = useState(false);
  const text = wordsOfAction(action);
  return (
    <div className={classes.further}>
      <span className={classes.furtherTitle}>{ACTION_FORMS[action.action].title}</span>
      {FIELDS_OF[action.action](action, put, offers)}
      {asSieve ? (
        <AsWritten key={text} label="The action as Sieve" text={text} read={readWrittenAction} onRead={put} />
      ) : (
        <TextButton onClick={() => setAsSieve(true)}>write it as Sieve</TextButton>
      )}
    </div>
  );
}

interface MaybeChoiceProps<T extends string> {
  readonly label: string;
  readonly value: string | undefined;
  readonly choices: readonly { readonly value: T; readonly label: string }[];
  readonly onChange: (value: string | undefined) => void;
}

/** A choice that may be unset; an unknown value is shown as it is. */
function MaybeChoice<T extends string>({ label, value = '', choices, onChange }: MaybeChoiceProps<T>) {
  const known = value === '' || choices.some((choice) => choice.value === value);
  return (
    <Choice<string>
      label={label}
      value={value}
      choices={[{ value: '', label: 'as usual' }, ...choices, ...(known ? [] : [{ value, label: value }])]}
      onChange={(chosen) => onChange(chosen || undefined)}
    />
  );
}

const orNone = (list: readonly string[]): readonly string[] | undefined => (list.length === 0 ? undefined : list);

interface LineProps {
  readonly label: string;
  readonly value: string | undefined;
  readonly onChange: (value: string | undefined) => void;
}

/** One line of optional text. */
function Line({ label, value, onChange }: LineProps) {
  return (
    <TextInput
      size="xs"
      label={label}
      className={classes.headers}
      value={value ?? ''}
      onChange={(event) => onChange(event.currentTarget.value || undefined)}
    />
  );
}

function Block({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return (
    <Textarea
      size="xs"
      label={label}
      className={classes.sieve}
      autosize
      minRows={2}
      maxRows={12}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
    />
  );
}

function Use({ use, onChange }: { use: string; onChange: (use: string) => void }) {
  return (
    <Autocomplete
      size="xs"
      aria-label="Special use"
      className={classes.what}
      value={use}
      data={USES}
      onChange={onChange}
    />
  );
}

type PeriodOf = Of<'vacation'>['period'];

/** How often the same sender gets a reply; the server's default if empty. */
function Period({ period, put }: { period: PeriodOf; put: (period: PeriodOf) => void }) {
  return (
    <>
      <NumberInput
        size="xs"
        label="Once in"
        className={classes.short}
        min={0}
        allowDecimal={false}
        value={period?.number ?? ''}
        onChange={(number) =>
          put(number === '' ? undefined : { unit: period?.unit ?? 'days', number: Number(number) || 0 })
        }
      />
      <Choice
        label="Days or seconds"
        value={period?.unit ?? 'days'}
        choices={[
          { value: 'days', label: 'days' },
          { value: 'seconds', label: 'seconds' },
        ]}
        onChange={(unit) => put({ unit, number: period?.number ?? 7 })}
      />
    </>
  );
}

/** Whether a copy of the sent message is filed (RFC 8580). */
function SentCopy({ copy, put }: { copy: FiledCopy | undefined; put: (copy: FiledCopy | undefined) => void }) {
  return (
    <>
      <Tick
        label="file a copy of the sent message"
        checked={copy !== undefined}
        onChange={(filed) => put(filed && { folder: 'Sent' })}
      />
      {copy && (
        <>
          <Line label="Folder of the copy" value={copy.folder} onChange={(folder = '') => put({ ...copy, folder })} />
          <Line
            label="Or the folder with a special use"
            value={copy.use}
            onChange={(use) => put(withPart(copy, 'use', use))}
          />
          <Tick
            label="create the folder if it is missing"
            checked={copy.create}
            onChange={(create) => put(withPart(copy, 'create', create))}
          />
          <Marked flags={copy.flags ?? null} onChange={(flags) => put(withPart(copy, 'flags', flags ?? undefined))} />
        </>
      )}
    </>
  );
}

type By = RedirectFurther['by'];

/** By when it must be delivered, in seconds from now or as a time (RFC 6009). */
function DeliverBy({ by, put }: { by: By; put: (by: By) => void }) {
  const timed = (text: string) => (/^\d+$/.test(text) ? Number(text) : text);
  return (
    <>
      <Line
        label="Deliver by: seconds, or a time"
        value={by && String(by.time)}
        onChange={(text) => put(text === undefined ? undefined : { ...by, time: timed(text) })}
      />
      {by && (
        <>
          <MaybeChoice
            label="If late"
            value={by.mode}
            choices={[
              { value: 'NOTIFY', label: 'tell me' },
              { value: 'RETURN', label: 'return it' },
            ]}
            onChange={(mode) => put(withPart(by, 'mode', mode))}
          />
          <Tick
            label="report each server on the way"
            checked={by.trace}
            onChange={(trace) => put(withPart(by, 'trace', trace))}
          />
        </>
      )}
    </>
  );
}
