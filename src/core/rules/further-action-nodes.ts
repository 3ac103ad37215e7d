import type { Bound } from '../sieve/language/bind';
import type { Argument, CommandNode } from '../sieve/tree';
import { command, flagged, flagStrings, number, string, strings, tagged, text } from './arguments';
import type { FiledCopy, FurtherAction, FurtherActionName } from './further-actions';

/**
 * Converts Sieve nodes to the further actions of rules and back. Each kind has a row, so that the compiler finds a
 * missing one.
 */

type Of<Name extends FurtherActionName> = Extract<FurtherAction, { action: Name }>;

interface Row<Name extends FurtherActionName> {
  /** The Sieve command. */
  readonly command: string;
  readonly read: (bound: Bound) => Of<Name>;
  readonly args: (action: Of<Name>) => readonly Argument[];
}

const ACTIONS: { readonly [Name in FurtherActionName]: Row<Name> } = {
  vacation: {
    command: 'vacation',
    read: (bound) => {
      const unit = bound.tagAmong('period', ['days', 'seconds']);
      return {
        action: 'vacation',
        reason: bound.string('reason'),
        ...(unit ? { period: { unit, number: bound.number(unit) } } : {}),
        ...given(bound, 'subject', 'from', 'handle'),
        ...givenLists(bound, 'addresses'),
        ...marked(bound, 'mime'),
        ...readCopy(bound),
      };
    },
    args: ({ reason, period, subject, from, handle, addresses, mime, fcc }) => [
      ...(period ? tagged(period.unit, number(period.number)) : []),
      ...taggedText('subject', subject),
      ...taggedText('from', from),
      ...taggedList('addresses', addresses),
      ...flagged('mime', mime),
      ...taggedText('handle', handle),
      ...copyTags(fcc),
      text(reason),
    ],
  },
  notify: {
    command: 'notify',
    read: (bound) => ({
      action: 'notify',
      method: bound.string('method'),
      ...given(bound, 'from', 'importance', 'message'),
      ...givenLists(bound, 'options'),
      ...readCopy(bound),
    }),
    args: ({ method, from, importance, options, message, fcc }) => [
      ...taggedText('from', from),
      ...taggedText('importance', importance),
      ...taggedList('options', options),
      ...taggedText('message', message),
      ...copyTags(fcc),
      string(method),
    ],
  },
  reject: {
    command: 'reject',
    read: (bound) => ({ action: 'reject', reason: bound.string('reason') }),
    args: ({ reason }) => [text(reason)],
  },
  ereject: {
    command: 'ereject',
    read: (bound) => ({ action: 'ereject', reason: bound.string('reason') }),
    args: ({ reason }) => [text(reason)],
  },
  'fileinto-use': {
    command: 'fileinto',
    read: (bound) => ({
      action: 'fileinto-use',
      use: bound.string('specialuse'),
      folder: bound.string('mailbox'),
      copy: bound.tag('copy') !== null,
      ...marked(bound, 'create'),
      flags: bound.has('flags') ? bound.strings('flags') : null,
    }),
    args: ({ use, folder, copy, create, flags }) => [
      ...flagged('copy', copy),
      ...flagged('create', create),
      ...tagged('specialuse', string(use)),
      ...(flags ? tagged('flags', flagStrings(flags)) : []),
      string(folder),
    ],
  },
  'redirect-further': {
    command: 'redirect',
    read: (bound) => ({
      action: 'redirect-further',
      address: bound.string('address'),
      copy: bound.tag('copy') !== null,
      ...marked(bound, 'list'),
      ...givenLists(bound, 'notify'),
      ...given(bound, 'ret'),
      ...readBy(bound),
    }),
    args: ({ address, copy, list, notify, ret, by }) => [
      ...flagged('copy', copy),
      ...flagged('list', list),
      ...taggedList('notify', notify),
      ...taggedText('ret', ret),
      ...byTags(by),
      string(address),
    ],
  },
  replace: {
    command: 'replace',
    read: (bound) => ({
      action: 'replace',
      text: bound.string('replacement'),
      ...marked(bound, 'mime'),
      ...given(bound, 'subject', 'from'),
    }),
    args: (action) => [
      ...flagged('mime', action.mime),
      ...taggedText('subject', action.subject),
      ...taggedText('from', action.from),
      text(action.text),
    ],
  },
  enclose: {
    command: 'enclose',
    read: (bound) => ({
      action: 'enclose',
      text: bound.string('text'),
      ...given(bound, 'subject'),
      ...givenLists(bound, 'headers'),
    }),
    args: (action) => [
      ...taggedText('subject', action.subject),
      ...taggedList('headers', action.headers),
      text(action.text),
    ],
  },
  convert: {
    command: 'convert',
    read: (bound) => ({
      action: 'convert',
      from: bound.string('quoted-from-media-type'),
      to: bound.string('quoted-to-media-type'),
      parameters: bound.strings('transcoding-params'),
    }),
    args: ({ from, to, parameters }) => [string(from), string(to), strings(parameters)],
  },
  error: {
    command: 'error',
    read: (bound) => ({ action: 'error', message: bound.string('message') }),
    args: ({ message }) => [text(message)],
  },
};

/** The same table for any name; each row gets only nodes of its own name. */
const ROWS = ACTIONS as { readonly [Name in FurtherActionName]: Row<FurtherActionName> };

/** The action of a bound node; null if rules have none of this name. */
export function readFurtherAction(name: string, bound: Bound): FurtherAction | null {
  const row = Object.values(ROWS).find((one) => one.command === name);
  return row?.read(bound) ?? null;
}

export function furtherActionNode(action: FurtherAction): CommandNode {
  const row = ROWS[action.action];
  return command(row.command, row.args(action));
}

/** Whether it is one of the further actions. */
export const isFurther = (action: { readonly action: string }): action is FurtherAction =>
  Object.hasOwn(ACTIONS, action.action);

/** The texts that are set. Their names are property names, which TypeScript loses in `fromEntries`. */
function given<Name extends string>(bound: Bound, ...names: Name[]): { readonly [Key in Name]?: string } {
  const found = names.flatMap((name) => (bound.has(name) ? [[name, bound.string(name)] as const] : []));
  return Object.fromEntries(found) as { readonly [Key in Name]?: string };
}

function givenLists<Name extends string>(bound: Bound, name: Name): { readonly [Key in Name]?: readonly string[] } {
  const found = bound.has(name) ? { [name]: bound.strings(name) } : {};
  return found as { readonly [Key in Name]?: readonly string[] };
}

function marked<Name extends string>(bound: Bound, name: Name): { readonly [Key in Name]?: true } {
  const found = bound.tag(name) === null ? {} : { [name]: true };
  return found as { readonly [Key in Name]?: true };
}

const taggedText = (name: string, value: string | undefined): Argument[] =>
  tagged(name, value === undefined ? undefined : string(value));
const taggedList = (name: string, values: readonly string[] | undefined): Argument[] =>
  tagged(name, values && values.length > 0 ? strings(values) : undefined);

function readCopy(bound: Bound): { readonly fcc?: FiledCopy } {
  if (!bound.has('fcc')) return {};
  const use = bound.has('specialuse') ? { use: bound.string('specialuse') } : {};
  return { fcc: { folder: bound.string('fcc'), ...givenLists(bound, 'flags'), ...marked(bound, 'create'), ...use } };
}

function copyTags(fcc: FiledCopy | undefined): Argument[] {
  if (!fcc) return [];
  return [
    ...tagged('fcc', string(fcc.folder)),
    ...tagged('flags', fcc.flags && flagStrings(fcc.flags)),
    ...flagged('create', fcc.create),
    ...taggedText('specialuse', fcc.use),
  ];
}

type By = NonNullable<Of<'redirect-further'>['by']>;

function readBy(bound: Bound): { readonly by?: By } {
  const kind = bound.tag('bytime');
  if (kind === null) return {};
  const time = kind === 'bytimerelative' ? bound.number('bytime') : bound.string('bytime');
  const mode = bound.has('bymode') ? { mode: bound.string('bymode') } : {};
  return { by: { time, ...mode, ...(bound.tag('bytrace') === null ? {} : { trace: true as const }) } };
}

function byTags(by: By | undefined): Argument[] {
  if (!by) return [];
  const { time, mode, trace } = by;
  const when =
    typeof time === 'number' ? tagged('bytimerelative', number(time)) : tagged('bytimeabsolute', string(time));
  return [...when, ...taggedText('bymode', mode), ...flagged('bytrace', trace)];
}
