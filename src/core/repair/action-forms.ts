import type { FurtherAction, FurtherActionName } from '../rules/further-actions';
import type { Action } from '../rules/rule';

interface ActionForm<Name extends FurtherActionName> {
  readonly title: string;
  readonly begin: Extract<FurtherAction, { action: Name }>;
}

/** The further actions of rules in the words of the trade, and with what each is begun. */
export const ACTION_FORMS: { readonly [Name in FurtherActionName]: ActionForm<Name> } = {
  vacation: {
    title: 'reply automatically',
    begin: { action: 'vacation', period: { unit: 'days', number: 7 }, reason: 'I am away.' },
  },
  notify: { title: 'send a notification', begin: { action: 'notify', method: 'mailto:me@home.example' } },
  reject: { title: 'reject, with a text', begin: { action: 'reject', reason: 'This mail is not accepted.' } },
  ereject: {
    title: 'reject in the session, with a text',
    begin: { action: 'ereject', reason: 'This mail is not accepted.' },
  },
  'fileinto-use': {
    title: 'file into the folder of a use',
    begin: { action: 'fileinto-use', use: '\\Junk', folder: 'Junk', copy: false, flags: null },
  },
  'redirect-further': {
    title: 'redirect, with delivery notices',
    begin: { action: 'redirect-further', address: '', copy: true, notify: ['FAILURE'] },
  },
  replace: { title: 'put a text in its place', begin: { action: 'replace', text: 'This mail was replaced.' } },
  enclose: { title: 'enclose it in a message', begin: { action: 'enclose', text: 'The mail is enclosed.' } },
  convert: {
    title: 'convert parts of it',
    begin: { action: 'convert', from: 'image/tiff', to: 'image/jpeg', parameters: ['pix-x=640'] },
  },
  error: { title: 'end with an error', begin: { action: 'error', message: 'The rules cannot go on.' } },
};

interface Beginning {
  readonly title: string;
  readonly begin: Action;
}

/** What a rule can begin to do, the usual things first. */
export const ACTION_BEGINNINGS: readonly Beginning[] = [
  { title: 'file into a folder', begin: { action: 'fileinto', folder: '', copy: false, flags: null } },
  { title: 'keep in the inbox', begin: { action: 'keep', flags: null } },
  { title: 'mark', begin: { action: 'addflag', flags: ['\\flagged'] } },
  { title: 'take a mark away', begin: { action: 'removeflag', flags: ['\\flagged'] } },
  { title: 'mark only as', begin: { action: 'setflag', flags: ['\\seen'] } },
  { title: 'redirect to an address', begin: { action: 'redirect', address: '', copy: true } },
  { title: 'drop', begin: { action: 'discard' } },
  ...Object.values(ACTION_FORMS),
];

/** The same with a part that may be left out: given, or left out where there is no value for it. */
export function withPart<Whole extends object, Name extends keyof Whole>(
  whole: Whole,
  name: Name,
  value: Whole[Name] | undefined,
): Whole {
  const { [name]: _, ...rest } = whole;
  // It is of the same kind with the part or without it, since the part may be left out; a rest does not say so.
  return (value === undefined ? rest : { ...rest, [name]: value }) as Whole;
}
