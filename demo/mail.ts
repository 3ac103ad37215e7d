import { CORRESPONDENTS, type Correspondent, isPerson, ME, OWN, senderOf } from './people';
import { Dice } from './random';

export interface DemoMessage {
  readonly folder: string;
  readonly fromLine: string;
  readonly raw: Uint8Array;
}

export const MESSAGE_COUNT = 4000;
const YEARS = 8;
const END = Date.UTC(2026, 9, 31, 18);
const START = END - YEARS * 365.25 * 86_400_000;

/** Eight years of made-up mail, the same in every run, in the order of its dates. */
export function demoMail(count = MESSAGE_COUNT): DemoMessage[] {
  const dice = new Dice(1742);
  const weights = CORRESPONDENTS.flatMap((who) => Array.from({ length: who.weight }, () => who));
  const people = weights.filter(isPerson);
  const messages: DemoMessage[] = [];
  for (let index = 0; index < count; index++) {
    const time = START + ((END - START) * (index + dice.next() * 0.8)) / count;
    const odd = ODD[index % 97];
    if (odd && index > 97) messages.push(oddMessage(odd, index, time));
    else if (dice.chance(0.12)) messages.push(sentMessage(dice.pick(people), index, time, dice));
    else messages.push(receivedMessage(dice.pick(weights), index, time, dice));
  }
  return messages;
}

/** Mail of the weeks after, the same in every run. */
export function laterMail(count = 24): DemoMessage[] {
  const dice = new Dice(1743);
  const weights = CORRESPONDENTS.flatMap((who) => Array.from({ length: who.weight }, () => who));
  return Array.from({ length: count }, (_, at) => {
    const time = END + (at + 1) * 19 * 3_600_000;
    return receivedMessage(dice.pick(weights), MESSAGE_COUNT + at, time, dice);
  });
}

function receivedMessage(who: Correspondent, index: number, time: number, dice: Dice): DemoMessage {
  const number = String(dice.between(12, 480));
  const fill = (text: string) => text.replaceAll('{n}', number);
  const sender = senderOf(who, dice);
  const path = fill(who.path ?? sender.address);
  const to = who.to ?? dice.pick([ME, ME, ME, OWN[1]]);
  const cc = dice.chance(0.05) ? 'The board <board@hollinweir.example>' : null;
  const subject = fill(dice.pick(who.subjects));
  const fields = [
    `Return-Path: <${path}>`,
    `Delivered-To: ${to === OWN[1] ? OWN[1] : ME}`,
    `From: ${encodeName(sender.name)} <${sender.address}>`,
    `To: ${to}`,
    ...(cc ? [`Cc: ${cc}`] : []),
    ...(subject === '' && dice.chance(0.5) ? [] : [`Subject: ${encodeSubject(subject, dice)}`]),
    `Date: ${rfcDate(time)}`,
    `Message-ID: <${index}.${number}@${sender.address.split('@')[1]}>`,
    ...(who.fields ?? []),
    ...statusFields(who, time, dice),
  ];
  const text = `${greeting(who)}\n\n${who.body.map(fill).join('\n')}\n\n${sender.name}\n`;
  const folder = dice.chance(0.03) ? 'Kept' : who.folder;
  return finish(folder, path, time, fields, mimeBody(text, who, dice, dice.chance(0.1)));
}

function sentMessage(who: Correspondent, index: number, time: number, dice: Dice): DemoMessage {
  const number = String(dice.between(12, 480));
  const subject = `Re: ${dice.pick(who.subjects).replaceAll('{n}', number)}`;
  const fields = [
    `From: Maren Holt <${ME}>`,
    `To: ${encodeName(who.name)} <${who.address}>`,
    `Subject: ${encodeSubject(subject, dice)}`,
    `Date: ${rfcDate(time)}`,
    `Message-ID: <sent.${index}@hollinweir.example>`,
    'Status: RO',
  ];
  const text = 'Thank you, I shall look at it on Monday.\n\nMaren Holt\nHollin Weir Mill Trust\n';
  return finish('Sent', ME, time, fields, mimeBody(text, null, dice, false));
}

/** Older mail is mostly seen; some kinds are left unseen for years. */
function statusFields(who: Correspondent, time: number, dice: Dice): string[] {
  const neglected = /Camera|Bulk|Levels|Machines/.test(who.folder);
  const seen = dice.chance(neglected ? 0.35 : 0.93);
  const answered = seen && !neglected && dice.chance(0.25);
  const flagged = dice.chance(0.03);
  const letters = `${answered ? 'A' : ''}${flagged ? 'F' : ''}`;
  return [
    ...(seen || time < START + 86_400_000 ? ['Status: RO'] : ['Status: O']),
    ...(letters ? [`X-Status: ${letters}`] : []),
  ];
}

const greeting = (who: Correspondent): string => (/[^\u0020-\u024f]/.test(who.body[0] ?? '') ? 'Maren' : 'Dear Maren,');

const multipart = (type: string, ...parts: readonly (readonly string[])[]): string[] => [
  'MIME-Version: 1.0',
  `Content-Type: multipart/${type}; boundary="weir"`,
  '',
  ...parts.flatMap((part) => ['--weir', ...part]),
  '--weir--',
  '',
];

/** Octets of a line of base64. */
const LINE = 57;
/** The beginning of all pictures, and its lines in base64, as far as one was needed yet. */
let picture = Buffer.alloc(0);
let lines = '';

function pictureInBase64(size: number): string {
  if (size > picture.length) {
    picture = Buffer.alloc(LINE * Math.ceil((2 * size) / LINE));
    for (let at = 0; at < picture.length; at++) picture[at] = (at * 31 + (at >> 7)) & 255;
    lines = picture.toString('base64').replace(/.{76}/g, '$&\n');
  }
  const whole = Math.floor(size / LINE);
  const rest = picture.toString('base64', whole * LINE, size);
  return `${lines.slice(0, 77 * whole)}${rest}${rest.length === 76 ? '\n' : ''}`;
}

function mimeBody(text: string, who: Correspondent | null, dice: Dice, html: boolean): string[] {
  const plain = ['Content-Type: text/plain; charset=utf-8', 'Content-Transfer-Encoding: 8bit'];
  if (who?.attachment) {
    const size = Math.floor(who.attachment * (0.6 + dice.next() * 0.8) * 0.73);
    return multipart(
      'mixed',
      [...plain, '', text],
      [
        'Content-Type: application/octet-stream; name="paper.bin"',
        'Content-Disposition: attachment; filename="paper.bin"',
        'Content-Transfer-Encoding: base64',
        '',
        pictureInBase64(size),
      ],
    );
  }
  if (who?.failed) {
    const status = ['Reporting-MTA: dns; mail.hollinweir.example', ''];
    const recipient = [`Final-Recipient: rfc822; ${who.failed}`, 'Action: failed', 'Status: 5.1.1', ''];
    return multipart(
      'report; report-type=delivery-status',
      [...plain, '', text],
      ['Content-Type: message/delivery-status', '', ...status, ...recipient],
    );
  }
  if (html) {
    const page = `<html><body><p>${text.trim().replaceAll('\n', '<br>')}</p><script>alert("no")</script></body></html>\n`;
    return ['MIME-Version: 1.0', 'Content-Type: text/html; charset=utf-8', 'Content-Transfer-Encoding: 8bit', '', page];
  }
  return ['MIME-Version: 1.0', ...plain, '', text];
}

/** Broken and strange messages, as every old mailbox has them. */
const ODD: Readonly<Record<number, { readonly folder: string; readonly lines: readonly string[] }>> = {
  11: {
    folder: 'INBOX',
    lines: ['From: <broken', 'Subject:', 'To: undisclosed-recipients:;', '', 'No address at all.', ''],
  },
  31: {
    folder: 'INBOX',
    lines: [
      'From: "Camera, by night" <camera@cam.hollinweir.example>',
      'Subject: =?utf-8?q?Motion_by_night_=E2=80=93?=',
      ' =?utf-8?b?w7xiZXI=?= the weir',
      'Date: yesterday',
      'Content-Type: multipart/mixed; boundary="never"',
      '',
      '--never',
      'Content-Type: text/plain',
      '',
      'This multipart is never closed.',
      '',
    ],
  },
  53: {
    folder: 'INBOX',
    lines: [
      'From: Team: ruth@okafor.example, "ann castle"@fellmail.example;',
      'To: coordinator@hollinweir.example',
      'Subject: =?x-unknown?q?What_charset?=',
      'this line is no field',
      '',
      'From the weir, with love.',
      '>From the mill, too.',
      '',
    ],
  },
  79: { folder: 'INBOX', lines: ['Subject: only a subject', '', ''] },
};

function oddMessage(odd: { folder: string; lines: readonly string[] }, index: number, time: number): DemoMessage {
  const [head, ...rest] = odd.lines;
  return finish(
    odd.folder,
    'odd@hollinweir.example',
    time,
    [head as string, `Message-ID: <odd.${index}@hollinweir.example>`],
    [...rest],
  );
}

function finish(
  folder: string,
  path: string,
  time: number,
  fields: readonly string[],
  body: readonly string[],
): DemoMessage {
  const raw = new TextEncoder().encode([...fields, ...body].join('\n'));
  return { folder, fromLine: `From ${path || 'MAILER-DAEMON'} ${fromDate(time)}`, raw };
}

function encodeName(name: string): string {
  if (/^[\x20-\x7e]*$/.test(name)) return /[^A-Za-z0-9 ]/.test(name) ? `"${name}"` : name;
  return encodeWord(name);
}

function encodeSubject(subject: string, dice: Dice): string {
  if (/^[\x20-\x7e]*$/.test(subject)) return subject;
  // Some programs write bare UTF-8 (RFC 6532).
  return dice.chance(0.2) ? subject : encodeWord(subject);
}

const encodeWord = (text: string): string => `=?utf-8?B?${Buffer.from(text).toString('base64')}?=`;

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const two = (number: number): string => String(number).padStart(2, '0');

function rfcDate(time: number): string {
  const date = new Date(time);
  const clock = `${two(date.getUTCHours())}:${two(date.getUTCMinutes())}:${two(date.getUTCSeconds())}`;
  const day = `${DAYS[date.getUTCDay()]}, ${date.getUTCDate()} ${MONTHS[date.getUTCMonth()]} ${date.getUTCFullYear()}`;
  return `${day} ${clock} +0000`;
}

function fromDate(time: number): string {
  const date = new Date(time);
  const clock = `${two(date.getUTCHours())}:${two(date.getUTCMinutes())}:${two(date.getUTCSeconds())}`;
  const day = String(date.getUTCDate()).padStart(2, ' ');
  return `${DAYS[date.getUTCDay()]} ${MONTHS[date.getUTCMonth()]} ${day} ${clock} ${date.getUTCFullYear()}`;
}
