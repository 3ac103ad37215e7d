import type { FurtherAction, FurtherActionName } from '../rules/further-actions';
import type { Action } from '../rules/rule';

interface ActionForm<Name extends FurtherActionName> {
  readonly title: string;
  readonly begin: Extract<FurtherAction, { action: Name }>;
}

/** The further actions of rules, with their titles and initial values. */
export const ACTION_FORMS: { readonly [Name in FurtherActionName]: ActionForm<Name> } = {
  vacation: {
    title: 'send an automatic reply',
    begin: { action: 'vacation', period: { unit: 'days', number: 7 }, reason: 'I am away.' },
  },
  notify: { title: 'send a notification', begin: { action: 'notify', method: 'mailto:me@home.example' } },
  reject: { title: 'reject, with a text', begin: { action: 'reject', reason: 'This mail is not accepted.' } },
  ereject: {
    title: 'reject during delivery, with a text',
    begin: { action: 'ereject', reason: 'This mail is not accepted.' },
  },
  'fileinto-use': {
    title: 'file into the folder with a special use',
    begin: { action: 'fileinto-use', use: '\\Junk', folder: 'Junk', copy: false, flags: null },
  },
  'redirect-further': {
    title: 'redirect, with delivery notices',
    begin: { action: 'redirect-further', address: '', copy: true, notify: ['FAILURE'] },
  },
  replace: { title: 'replace the body with a text', begin: { action: 'replace', text: 'This mail was replaced.' } },
  enclose: { title: 'enclose the message in a new one', begin: { action: 'enclose', text: 'The mail is enclosed.' } },
  convert: {
    title: 'convert parts of the message',
    begin: { action: 'convert', from: 'image/tiff', to: 'image/jpeg', parameters: ['pix-x=640'] },
  },
  error: { title: 'fail with an error', begin: { action: 'error', message: 'The rules cannot go on.' } },
};

interface Beginning {
  readonly title: string;
  readonly begin: Action;
}

/** The actions offered in the editor, common ones first. */
export const ACTION_BEGINNINGS: readonly Beginning[] = [
  { title: 'file into a folder', begin: { action: 'fileinto', folder: '', copy: false, flags: null } },
  { title: 'keep in the inbox', begin: { action: 'keep', flags: null } },
  { title: 'mark', begin: { action: 'addflag', flags: ['\\flagged'] } },
  { title: 'remove a flag', begin: { action: 'removeflag', flags: ['\\flagged'] } },
  { title: 'set the flags to', begin: { action: 'setflag', flags: ['\\seen'] } },
  { title: 'redirect to an address', begin: { action: 'redirect', address: '', copy: true } },
  { title: 'discard', begin: { action: 'discard' } },
  ...Object.values(ACTION_FORMS),
];

/** Sets an optional property, or removes it if there is no value. */
export function withPart<Whole extends object, Name extends keyof Whole>(
  whole: Whole,
  name: Name,
  value: Whole[Name] | undefined,
): Whole {
  const { [name]: _, ...rest } = whole;
  // The property is optional, so the result has the same type, which a rest pattern does not express.
  return (value === undefined ? rest : { ...rest, [name]: value }) as Whole;
}
