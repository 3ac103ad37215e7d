import { ownJson } from '../src/core/text/lookup';
import { write } from './cli';

/** A script and three messages. */
export const FROM = 'From x@y.example Thu Jan  1 10:00:00 2026';
export const RULES = write(
  'rules.sieve',
  `require ["fileinto", "imap4flags", "envelope"];
# Oak
if address :domain :is "from" "oak.example" { addflag "\\\\Seen"; fileinto "Oak"; stop; }
if header :contains "subject" "drop" { discard; }
elsif envelope :is "to" "me@mill.example" { redirect "you@mill.example"; keep; }
`,
);
export const ONE =
  'Return-Path: <a@oak.example>\nFrom: a@oak.example\nSubject: drop\nMessage-ID: <1@oak.example>\n\nx\n';
export const TWO = 'From: b@x.example\nSubject: drop it\n\nx\n';
export const THREE = 'From: b@x.example\nSubject: letter\n\nx\n';
export const MBOX = write('mail.mbox', [ONE, TWO, THREE].map((text) => `${FROM}\n${text}\n`).join(''));

export const LINES = [
  {
    index: 0,
    messageId: '<1@oak.example>',
    deliveries: [{ folder: 'Oak', flags: ['\\seen'] }],
    redirects: [],
    rejected: false,
    discarded: false,
    fired: ['Oak'],
  },
  { index: 1, messageId: null, deliveries: [], redirects: [], rejected: false, discarded: true, fired: ['Rule 2'] },
  {
    index: 2,
    messageId: null,
    deliveries: [{ folder: 'INBOX', flags: [] }],
    redirects: ['you@mill.example'],
    rejected: false,
    discarded: false,
    fired: ['Rule 3'],
  },
];
/** The possible fields of a line of output. */
interface Line {
  readonly index: number;
  readonly messageId: string | null;
  readonly fired: readonly string[];
  readonly discarded: boolean;
  readonly kind: string;
  readonly rule: string;
}

export const parsed = (out: string) =>
  out
    .trim()
    .split('\n')
    .map((line) => ownJson<Line>(line));
