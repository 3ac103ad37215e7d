import type { SheetRow } from '../src/core/rules/sheet';

/** Thirty rules as people have them: as a sentence, as cells of the sheet, and as a line of a pasted list. */
export const THIRTY: readonly { readonly sentence: string; readonly cells: SheetRow; readonly listed: string }[] = [
  ['from anna@mill.example into Anna', { sender: 'anna@mill.example', folder: 'Anna' }, 'anna@mill.example\tAnna'],
  [
    'from ben@mill.example, cora@mill.example into Family',
    { sender: 'ben@mill.example, cora@mill.example', folder: 'Family' },
    'ben@mill.example, cora@mill.example\tFamily',
  ],
  [
    'from @bank.example into Bank, mark as read',
    { sender: '@bank.example', folder: 'Bank', seen: 'yes' },
    'from @bank.example\tBank, mark as read',
  ],
  ['from *.shop.example into Shopping', { sender: '*.shop.example', folder: 'Shopping' }, '*.shop.example\tShopping'],
  [
    'invoice or receipt in the subject into Bills',
    { subject: 'invoice; receipt', folder: 'Bills' },
    'subject: invoice, receipt\tBills',
  ],
  [
    'from @power.example about invoice into Bills',
    { sender: '@power.example', subject: 'invoice', folder: 'Bills' },
    '@power.example\tsubject: invoice\tBills',
  ],
  ['with parcel in the text into Parcels', { text: 'parcel', folder: 'Parcels' }, 'body contains parcel\tParcels'],
  [
    'with tracking in the subject or text into Parcels',
    { either: 'tracking', folder: 'Parcels' },
    'subject or text contains tracking\tParcels',
  ],
  [
    'addressed to info@mill.example into Info',
    { recipient: 'info@mill.example', folder: 'Info' },
    'to info@mill.example\tInfo',
  ],
  ['to @club.example into Club', { recipient: '@club.example', folder: 'Club' }, 'to @club.example\tClub'],
  ['list weavers into Weavers', { list: 'weavers', folder: 'Weavers' }, 'list weavers\tWeavers'],
  [
    'delivered to shop@mill.example into Shop',
    { delivered: 'shop@mill.example', folder: 'Shop' },
    'delivered to shop@mill.example\tShop',
  ],
  ['only to me into Personal', { only: 'me', folder: 'Personal' }, 'only to me\tPersonal'],
  ['with attachments into Files', { attachment: 'yes', folder: 'Files' }, 'with attachments\tFiles'],
  ['larger than 5 MB into Large', { size: 'over 5 MB', folder: 'Large' }, 'over 5 MB\tLarge'],
  [
    'with high importance flag it and continue',
    { important: 'yes', flags: '\\flagged', ending: 'no' },
    'with high importance\tflag, continue',
  ],
  ['with lottery in the subject delete', { subject: 'lottery', drop: 'yes' }, 'subject: lottery\tdelete'],
  ['from win@prizes.example delete', { sender: 'win@prizes.example', drop: 'yes' }, 'win@prizes.example\tdelete'],
  [
    'from boss@work.example forward to me@home.example',
    { sender: 'boss@work.example', forward: 'me@home.example' },
    'boss@work.example\tforward to me@home.example',
  ],
  [
    'from @x.example except dan@x.example into X',
    { sender: '@x.example', exceptSender: 'dan@x.example', folder: 'X' },
    '@x.example, except dan@x.example\tX',
  ],
  [
    'from @y.example without urgent in the subject into Y',
    { sender: '@y.example', exceptSubject: 'urgent', folder: 'Y' },
    '@y.example, without urgent in the subject\tY',
  ],
  [
    'from @z.example without attachments into Z',
    { sender: '@z.example', attachment: 'no', folder: 'Z' },
    '@z.example, without attachments\tZ',
  ],
  [
    'from eva@mill.example into Eva and keep it in the inbox',
    { sender: 'eva@mill.example', folder: 'Eva', keep: 'yes' },
    'eva@mill.example\tEva, keep in the inbox',
  ],
  [
    'from fay@mill.example copy to Fay',
    { sender: 'fay@mill.example', folder: 'Fay', copy: 'yes' },
    'fay@mill.example\tcopy to Fay',
  ],
  [
    'from team@work.example tag as Work and continue',
    { sender: 'team@work.example', flags: 'Work', ending: 'no' },
    'team@work.example\ttag as Work, continue',
  ],
  [
    'from @news.example or with newsletter in the subject into News',
    { sender: '@news.example', subject: 'newsletter', which: 'any', folder: 'News' },
    '@news.example or newsletter in the subject\tNews',
  ],
  ['x-tag contains spam into Odd', { 'Field x-tag': 'spam', folder: 'Odd' }, 'x-tag contains spam\tOdd'],
  ['grant anywhere into Grants', { anywhere: 'grant', folder: 'Grants' }, 'grant anywhere\tGrants'],
  ['from "Gus Orr" into Gus', { sender: 'Gus Orr', folder: 'Gus' }, 'from "Gus Orr"\tGus'],
  [
    'otherwise from @mill.example into Mill',
    { sender: '@mill.example', link: 'yes', folder: 'Mill' },
    'otherwise from @mill.example\tMill',
  ],
].map(([sentence, cells, listed]) => ({ sentence, cells, listed }) as (typeof THIRTY)[number]);
