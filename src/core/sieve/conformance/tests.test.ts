import { describe, expect, test } from 'vitest';
import { readMessage } from '../../mail/message';
import { interpreter } from '../interpret/interpret';
import { parse } from '../parse';
import { holds, type Setting } from './harness';

type Row = readonly [section: string, test: string, message: string, holds: boolean, setting?: Setting];

const table = (name: string, rows: readonly Row[]) =>
  describe(name, () => {
    test.each(rows.map((row) => [row[0], row[1], row[3], row] as const))('%s: %s is %s', (_s, _t, _h, row) => {
      expect(holds(row[1], row[2], row[4])).toBe(row[3]);
    });
  });

const S = (subject: string) => `Subject: ${subject}\n\n`;
const plain: Setting = { plain: true };

table('comparators (RFC 5228 2.7.3, RFC 4790, RFC 5051)', [
  ['RFC 4790 9.1', 'header :comparator "i;ascii-numeric" "subject" "5"', S('5.9'), true],
  ['RFC 4790 9.1', 'header :comparator "i;ascii-numeric" "subject" "5"', S('005'), true],
  ['RFC 4790 9.1', 'header :comparator "i;ascii-numeric" "subject" "5"', S('50'), false],
  [
    'RFC 4790 9.1',
    'header :value "gt" :comparator "i;ascii-numeric" "subject" "999999999999999999999"',
    S('1000000000000000000000'),
    true,
  ],
  ['RFC 4790 9.1', 'header :value "gt" :comparator "i;ascii-numeric" "subject" "10"', S('9'), false],
  ['RFC 4790 9.1', 'header :value "gt" :comparator "i;ascii-numeric" "subject" "10"', S('-3'), true],
  ['RFC 4790 9.1', 'header :value "gt" :comparator "i;ascii-numeric" "subject" "10"', S('+7'), true],
  ['RFC 4790 9.1', 'header :comparator "i;ascii-numeric" "subject" "abc"', S('xyz'), true],
  ['RFC 4790 9.1', 'header :comparator "i;ascii-numeric" "subject" "abc"', S('1'), false],
  ['RFC 4790 9.1', 'header :comparator "i;ascii-numeric" "subject" ""', S('abc'), true],
  ['RFC 4790 9.2', 'header :value "gt" "subject" "M"', S('['), true],
  ['RFC 4790 9.2', 'header :value "gt" "subject" "m"', S('['), true],
  ['RFC 4790 9.2', 'header :value "lt" "subject" "b"', S('A'), true],
  ['RFC 4790 9.2', 'header :value "eq" "subject" "OAK"', S('oak'), true],
  ['RFC 4790 9.3', 'header :value "eq" :comparator "i;octet" "subject" "OAK"', S('oak'), false],
  ['RFC 4790 9.3', 'header :value "lt" :comparator "i;octet" "subject" "a"', S('B'), true],
  ['RFC 5051 2', 'header :comparator "i;unicode-casemap" "subject" "GRÜN"', S('grün'), true],
  ['RFC 5051 2', 'header :contains :comparator "i;unicode-casemap" "subject" "МЕЛЬНИЦА"', S('старая мельница'), true],
  ['RFC 5051 2', 'header :comparator "i;unicode-casemap" "subject" "Ａ"', S('a'), true],
  ['RFC 5051 2', 'header :comparator "i;unicode-casemap" "subject" "STRASSE"', S('straße'), false],
  ['RFC 5051 2', 'header :comparator "i;unicode-casemap" "subject" "STRAßE"', S('straße'), true],
  ['RFC 5051 2', 'header :comparator "i;unicode-casemap" "subject" "ᾼ ⓐ"', S('ᾳ Ⓐ'), true],
  ['RFC 5051 2', 'header :matches :comparator "i;unicode-casemap" "subject" "*ΜΎΛΟΣ"', S('ο μύλος'), true],
  ['RFC 4790 9.2', 'header "subject" "МЕЛЬНИЦА"', S('мельница'), false],
]);

table('relational (RFC 5231)', [
  ['RFC 5231 4.1', 'header :value "ge" :comparator "i;ascii-numeric" "x-n" "3"', 'X-N: 3\n\n', true],
  ['RFC 5231 4.1', 'header :value "gt" :comparator "i;ascii-numeric" "x-n" "3"', 'X-N: 3\n\n', false],
  ['RFC 5231 4.1', 'header :value "le" :comparator "i;ascii-numeric" "x-n" "3"', 'X-N: 3\n\n', true],
  ['RFC 5231 4.1', 'header :value "lt" :comparator "i;ascii-numeric" "x-n" "3"', 'X-N: 2\n\n', true],
  ['RFC 5231 4.1', 'header :value "ne" "x-n" "3"', 'X-N: 4\n\n', true],
  ['RFC 5231 4.1', 'header :value "ne" "x-n" "3"', 'Subject: x\n\n', false],
  ['RFC 5231 4.1', 'header :value "gt" :comparator "i;ascii-numeric" "x-n" ["9", "3"]', 'X-N: 5\n\n', true],
  ['RFC 5231 4.2', 'header :count "eq" :comparator "i;ascii-numeric" "x-n" "0"', 'Subject: x\n\n', true],
  ['RFC 5231 4.2', 'header :count "eq" :comparator "i;ascii-numeric" "x-n" "2"', 'X-N: 1\nX-N: 1\n\n', true],
  [
    'RFC 5231 4.2',
    'header :count "ge" :comparator "i;ascii-numeric" ["to", "cc"] "2"',
    'To: a@x.example, b@x.example\nCc: c@x.example\n\n',
    true,
  ],
  [
    'RFC 5231 4.2',
    'header :count "ge" :comparator "i;ascii-numeric" ["to", "cc"] "3"',
    'To: a@x.example, b@x.example\nCc: c@x.example\n\n',
    false,
  ],
  [
    'RFC 5231 4.2',
    'address :count "ge" :comparator "i;ascii-numeric" ["to", "cc"] "3"',
    'To: a@x.example, b@x.example\nCc: c@x.example\n\n',
    true,
  ],
  [
    'RFC 5231 4.2',
    'address :count "eq" :comparator "i;ascii-numeric" "to" "2"',
    'To: Team: a@x.example, b@x.example;\n\n',
    true,
  ],
  ['RFC 5231 4.2', 'header :count "gt" :comparator "i;ascii-numeric" "x-n" "9"', `${'X-N: 1\n'.repeat(10)}\n`, true],
  ['RFC 5231 4.1', 'address :value "eq" :domain "from" "X.example"', 'From: a@x.example\n\n', true],
  ['RFC 5231 4.1', 'envelope :value "eq" :localpart "from" "a"', 'Return-Path: <a@x.example>\n\n', true],
  [
    'RFC 5231 4.2',
    'envelope :count "eq" :comparator "i;ascii-numeric" "from" "1"',
    'Return-Path: <a@x.example>\n\n',
    true,
  ],
]);

table('subaddress (RFC 5233)', [
  ['RFC 5233 4', 'address :user "to" "ken"', 'To: ken+sieve@x.example\n\n', true],
  ['RFC 5233 4', 'address :detail "to" "sieve"', 'To: ken+sieve@x.example\n\n', true],
  ['RFC 5233 4', 'address :detail :matches "to" "*"', 'To: ken@x.example\n\n', false],
  ['RFC 5233 4', 'address :user "to" "ken"', 'To: ken@x.example\n\n', true],
  ['RFC 5233 4', 'address :detail :is "to" ""', 'To: ken+@x.example\n\n', true],
  ['RFC 5233 4', 'address :user "to" "ken"', 'To: ken+@x.example\n\n', true],
  ['RFC 5233 4', 'address :user "to" "ken"', 'To: ken+a+b@x.example\n\n', true],
  ['RFC 5233 4', 'address :detail "to" "a+b"', 'To: ken+a+b@x.example\n\n', true],
  ['RFC 5233 4', 'envelope :detail "to" "list"', 'Delivered-To: me+list@mill.example\n\n', true],
  ['RFC 5233 4', 'address :localpart "to" "ken+sieve"', 'To: ken+sieve@x.example\n\n', true],
]);

const MULTI = [
  'Content-Type: multipart/mixed; boundary=b',
  '',
  'prologue words',
  '--b',
  'Content-Type: text/plain; charset=iso-8859-1',
  'Content-Transfer-Encoding: quoted-printable',
  '',
  'gr=FCn, soft=',
  ' break',
  '--b',
  'Content-Type: text/html',
  '',
  '<p>bold <b>words</b> &amp; more</p><script>secret()</script>',
  '--b',
  'Content-Type: application/x-data',
  'Content-Transfer-Encoding: base64',
  '',
  'b2FrIGJlYW0=',
  '--b',
  'Content-Type: message/rfc822',
  '',
  'Subject: inner subject',
  'From: inner@x.example',
  '',
  'inner text',
  '--b--',
  'epilogue words',
  '',
].join('\n');

table('body (RFC 5173)', [
  ['RFC 5173 5.3', 'body :contains "words"', '\nsome words\n', true],
  ['RFC 5173 5.1', 'body :raw :contains "soft=\n break"', MULTI, true],
  ['RFC 5173 5.1', 'body :raw :contains "grün"', MULTI, false],
  ['RFC 5173 5.1', 'body :raw :contains "boundary"', MULTI, false],
  ['RFC 5173 5.1', 'body :raw :contains "prologue"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "text/plain" :contains "grün, soft break"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "text" :contains "<b>words"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "text/plain" :contains "<b>"', MULTI, false],
  ['RFC 5173 5.2', 'body :content "application/x-data" :contains "oak beam"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "APPLICATION" :contains "oak"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "" :contains "oak"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "application/" :contains "oak"', MULTI, false],
  ['RFC 5173 5.2', 'body :content "/x-data" :contains "oak"', MULTI, false],
  ['RFC 5173 5.2', 'body :content "a/b/c" :contains ""', MULTI, false],
  ['RFC 5173 5.2', 'body :content "multipart" :contains "prologue"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "multipart" :contains "epilogue"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "multipart" :contains "oak"', MULTI, false],
  ['RFC 5173 5.2', 'body :content "message/rfc822" :contains "inner subject"', MULTI, true],
  ['RFC 5173 5.2', 'body :content "message/rfc822" :contains "inner text"', MULTI, false],
  ['RFC 5173 5.2', 'body :content "text/plain" :contains "inner text"', MULTI, true],
  ['RFC 5173 5.3', 'body :text :contains "bold words & more"', MULTI, true],
  ['RFC 5173 5.3', 'body :text :contains "secret"', MULTI, false],
  ['RFC 5173 4', 'body :contains ["nothing", "bold"]', MULTI, true],
  ['RFC 5173 4', 'body :is "exact"', '\nexact', true],
  ['RFC 5173 4', 'body :contains ""', 'Subject: no body\n', true],
  ['RFC 5173 4', 'body :matches "*W?RDS*"', '\nsome words\n', true],
  ['RFC 5173 4', 'body :comparator "i;octet" :contains "WORDS"', '\nsome words\n', false],
]);

const DATED =
  'Date: Tue, 1 Apr 1997 09:06:31 -0800 (Pacific)\nReceived: from x by y; Mon, 31 Dec 2018 23:30:00 +0000\n\n';
table('date (RFC 5260)', [
  ['RFC 5260 4.2', 'date "date" "year" "1997"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "month" "04"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "day" "01"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "date" "1997-04-01"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "time" "17:06:31"', DATED, true],
  ['RFC 5260 4.2', 'date :originalzone "date" "time" "09:06:31"', DATED, true],
  ['RFC 5260 4.2', 'date :zone "-0500" "date" "hour" "12"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "minute" "06"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "second" "31"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "weekday" "2"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "julian" "50539"', DATED, true],
  ['RFC 5260 4.2', 'date :originalzone "date" "zone" "-0800"', DATED, true],
  ['RFC 5260 4.2', 'date "date" "zone" "+0000"', DATED, true],
  ['RFC 5260 4.2', 'date :originalzone "date" "iso8601" "1997-04-01T09:06:31-08:00"', DATED, true],
  ['RFC 5260 4.2', 'date :originalzone "date" "std11" "Tue, 01 Apr 1997 09:06:31 -0800"', DATED, true],
  ['RFC 5260 4', 'date "received" "year" "2018"', DATED, true],
  ['RFC 5260 4', 'date :zone "+0100" "received" "year" "2019"', DATED, true],
  ['RFC 5260 4', 'date :zone "+0100" "received" "weekday" "2"', DATED, true],
  ['RFC 5260 4', 'date :zone "+0100" "received" "day" "01"', DATED, true],
  ['RFC 5260 4', 'date "date" "weekday" "0"', 'Date: Sun, 4 Jan 2026 10:00:00 +0000\n\n', true],
  ['RFC 5260 4', 'date "date" "year" "2026"', 'Subject: x\n\n', false],
  ['RFC 5260 4', 'date :matches "date" "year" "*"', 'Date: yesterday\n\n', false],
  ['RFC 5260 4', 'date :matches "date" "year" "*"', 'Date: Thu, 31 Apr 2026 10:00:00 +0000\n\n', false],
  ['RFC 5260 4', 'date :value "ge" "date" "date" "1997-01-01"', DATED, true],
  ['RFC 5322 4.3', 'date "date" "year" "2024"', 'Date: 5 Feb 24 10:00 EST\n\n', true],
  ['RFC 5322 4.3', 'date "date" "hour" "15"', 'Date: 5 Feb 24 10:00 EST\n\n', true],
  ['RFC 5260 5', 'currentdate "year" "2026"', '\n', true],
  ['RFC 5260 5', 'currentdate :value "lt" "date" "2026-01-02"', '\n', true],
  ['RFC 5260 5', 'currentdate :zone "-0100" "year" "2025"', '\n', true],
  ['RFC 5260 5', 'currentdate "weekday" "4"', '\n', true],
  ['RFC 5260 5', 'currentdate "month" "02"', '\n', true, { world: { now: Date.UTC(2026, 1, 14) } }],
  ['RFC 5260 5', 'currentdate "hour" "05"', '\n', true, { world: { zone: 300 } }],
]);

const TWICE = 'X-T: one\nX-T: two\nX-T: three\nTo: a@x.example, b@x.example\nTo: c@x.example\n\n';
table('index (RFC 5260 6)', [
  ['RFC 5260 6', 'header :index 1 "x-t" "one"', TWICE, true],
  ['RFC 5260 6', 'header :index 2 "x-t" "one"', TWICE, false],
  ['RFC 5260 6', 'header :index 3 "x-t" "three"', TWICE, true],
  ['RFC 5260 6', 'header :index 4 :matches "x-t" "*"', TWICE, false],
  ['RFC 5260 6', 'header :index 1 :last "x-t" "three"', TWICE, true],
  ['RFC 5260 6', 'header :last :index 3 "x-t" "one"', TWICE, true],
  ['RFC 5260 6', 'address :index 1 "to" "b@x.example"', TWICE, true],
  ['RFC 5260 6', 'address :index 1 "to" "c@x.example"', TWICE, false],
  ['RFC 5260 6', 'address :index 2 "to" "c@x.example"', TWICE, true],
  [
    'RFC 5260 6',
    'date :index 2 "received" "year" "2001"',
    'Received: x; 1 Jan 2000 00:00:00 +0000\nReceived: y; 1 Jan 2001 00:00:00 +0000\n\n',
    true,
  ],
]);

table('regex (draft-ietf-sieve-regex)', [
  ['draft 4', 'header :regex "subject" "order #[0-9]+"', S('Order #12'), true],
  ['draft 4', 'header :comparator "i;octet" :regex "subject" "order"', S('Order'), false],
  ['draft 4', 'header :regex "subject" "^$"', 'Subject:\n\n', true],
  ['draft 4', 'header :regex "subject" "(re|aw): .*oak"', S('Re: the oak'), true],
  ['draft 4', 'address :regex :domain "from" "^(a|b)\\\\.example$"', 'From: x@b.example\n\n', true],
]);

table('encoded-character (RFC 5228 2.4.2.4)', [
  ['RFC 5228 2.4.2.4', 'header "subject" "$${hex:40}"', S('$@'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex: 40 }"', S('@'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${HEX: 40}"', S('@'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:40"', S('${hex:40'), true, undefined],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:40 40}"', S('@@'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:c3 bc}"', S('ü'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:100}"', S('${hex:100}'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:}"', S('${hex:}'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:4 0}"', S('\u0004\u0000'), false],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:c3}${hex:bc}"', S('ü'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${unicode:40}"', S('@'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${Unicode: 40 6c34}"', S('@水'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${unicode:Cool}"', S('${unicode:Cool}'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:4${hex:30}}"', S('${hex:40}'), true],
  ['RFC 5228 2.4.2.4', 'header "subject" "${hex:40}"', S('${hex:40}'), true, plain],
]);

table('environment (RFC 5183)', [
  ['RFC 5183 4', 'environment :matches "name" "*"', '\n', false],
  ['RFC 5183 4', 'environment "Name" "mill"', '\n', true, { world: { environment: new Map([['name', 'Mill']]) } }],
  [
    'RFC 5183 4',
    'environment :contains "remote-host" "x.example"',
    '\n',
    true,
    { world: { environment: new Map([['remote-host', 'a.x.example']]) } },
  ],
]);

const folders = { world: { folders: new Set(['INBOX', 'Oak']) } };
const notes = {
  world: {
    metadata: new Map([
      ['Oak\0/private/comment', 'beams'],
      ['\0/shared/admin', 'ann'],
    ]),
  },
};
table('mailbox and metadata (RFC 5490)', [
  ['RFC 5490 3.1', 'mailboxexists "Oak"', '\n', true, folders],
  ['RFC 5490 3.1', 'mailboxexists ["Oak", "inbox"]', '\n', true, folders],
  ['RFC 5490 3.1', 'mailboxexists ["Oak", "Lime"]', '\n', false, folders],
  ['RFC 5490 3.3', 'metadata "Oak" "/private/comment" "beams"', '\n', true, notes],
  ['RFC 5490 3.3', 'metadata :contains "Oak" "/private/Comment" "EAM"', '\n', true, notes],
  ['RFC 5490 3.3', 'metadata :matches "Oak" "/private/none" "*"', '\n', false, notes],
  ['RFC 5490 3.4', 'metadataexists "Oak" "/private/comment"', '\n', true, notes],
  ['RFC 5490 3.4', 'metadataexists "Oak" ["/private/comment", "/private/none"]', '\n', false, notes],
  ['RFC 5490 4.2', 'servermetadata "/shared/admin" "Ann"', '\n', true, notes],
  ['RFC 5490 4.3', 'servermetadataexists "/shared/admin"', '\n', true, notes],
  ['RFC 5490 4.3', 'servermetadataexists "/shared/none"', '\n', false, notes],
]);

const special = { world: { specialUse: new Map([['\\junk', 'Spam']]) } };
table('special-use (RFC 8579)', [
  ['RFC 8579 3', 'specialuse_exists "\\\\Junk"', '\n', true, special],
  ['RFC 8579 3', 'specialuse_exists "\\\\Archive"', '\n', false, special],
  ['RFC 8579 3', 'specialuse_exists "Spam" "\\\\Junk"', '\n', true, special],
  ['RFC 8579 3', 'specialuse_exists "Oak" "\\\\Junk"', '\n', false, special],
]);

const scored = (score: number) => ({
  world: { spamScore: (_m: unknown, percent: boolean) => (percent ? score * 10 : score), virusScore: () => 3 },
});
table('spamtest, spamtestplus and virustest (RFC 5235)', [
  ['RFC 5235 2.1', 'spamtest "0"', '\n', true],
  ['RFC 5235 2.1', 'spamtest :value "ge" :comparator "i;ascii-numeric" "3"', '\n', true, scored(5)],
  ['RFC 5235 2.1', 'spamtest :value "ge" :comparator "i;ascii-numeric" "6"', '\n', false, scored(5)],
  ['RFC 5235 2.2', 'spamtest :percent :value "gt" :comparator "i;ascii-numeric" "37"', '\n', true, scored(5)],
  ['RFC 5235 2.2', 'spamtest :percent :count "eq" :comparator "i;ascii-numeric" "0"', '\n', true],
  ['RFC 5235 2.2', 'spamtest :percent :count "eq" :comparator "i;ascii-numeric" "0"', '\n', false, scored(5)],
  ['RFC 5235 3', 'virustest :value "eq" :comparator "i;ascii-numeric" "3"', '\n', true, scored(1)],
  ['RFC 5235 3', 'virustest "0"', '\n', true],
]);

const lists = { world: { lists: new Map([['tag:x,team', new Set(['ann@x.example'])]]) } };
table('extlists (RFC 6134)', [
  ['RFC 6134 2.2', 'address :list "from" "tag:x,team"', 'From: Ann <Ann@x.example>\n\n', true, lists],
  ['RFC 6134 2.2', 'address :list "from" "tag:x,team"', 'From: bob@x.example\n\n', false, lists],
  ['RFC 6134 2.2', 'header :list "subject" "tag:x,none"', S('x'), false, lists],
  ['RFC 6134 2.3', 'valid_ext_list "tag:x,team"', '\n', true, lists],
  ['RFC 6134 2.3', 'valid_ext_list ["tag:x,team", "tag:x,none"]', '\n', false, lists],
]);

table('ihave (RFC 5463), enotify (RFC 5435), convert (RFC 6558)', [
  ['RFC 5463 4', 'ihave "fileinto"', '\n', true],
  ['RFC 5463 4', 'ihave ["fileinto", "vnd.none"]', '\n', false],
  ['RFC 5435 4', 'valid_notify_method "mailto:a@x.example"', '\n', true],
  ['RFC 5435 4', 'valid_notify_method ["mailto:a@x.example", "tel:+1"]', '\n', false],
  ['RFC 5435 4', 'valid_notify_method "mailto:nobody"', '\n', false],
  ['RFC 5435 5', 'notify_method_capability "mailto:a@x.example" "Online" ["maybe"]', '\n', true],
  ['RFC 5435 5', 'notify_method_capability "tel:1" "online" "yes"', '\n', false],
  ['RFC 6558 2', 'convert "image/tiff" "image/jpeg" ["pix-x=320"]', '\n', false],
]);

table('mime (RFC 5703 4)', [
  ['RFC 5703 4.1', 'header :mime :type "content-type" "multipart"', MULTI, true],
  ['RFC 5703 4.1', 'header :mime :subtype "content-type" "mixed"', MULTI, true],
  ['RFC 5703 4.1', 'header :mime :contenttype "content-type" "multipart/mixed"', MULTI, true],
  ['RFC 5703 4.1', 'header :mime :param "boundary" "content-type" "b"', MULTI, true],
  ['RFC 5703 4.1', 'header :mime :anychild :contenttype "content-type" "text/html"', MULTI, true],
  ['RFC 5703 4.1', 'header :mime :contenttype "content-type" "text/html"', MULTI, false],
  ['RFC 5703 4.1', 'header :mime :anychild :param "charset" "content-type" "iso-8859-1"', MULTI, true],
  ['RFC 5703 4.2', 'address :mime :anychild "from" "inner@x.example"', MULTI, true],
  ['RFC 5703 4.2', 'address "from" "inner@x.example"', MULTI, false],
  ['RFC 5703 4.3', 'exists :mime :anychild "content-transfer-encoding"', MULTI, true],
  ['RFC 5703 4.3', 'exists :mime "content-transfer-encoding"', MULTI, false],
]);

table('envelope-dsn (RFC 6009)', [
  ['RFC 6009 3', 'envelope :matches "notify" "*"', '\n', false],
  ['RFC 6009 3', 'envelope "ret" "FULL"', '\n', false],
]);

table('headers from hostile hands', [
  ['RFC 5322 2.2.3', 'header :is "subject" "a b"', 'Subject: a\n\tb\n\n', true],
  ['RFC 2047 6.2', 'header :is "subject" "ab c"', 'Subject: =?utf-8?q?a?=\n\t=?utf-8?b?Yg==?= c\n\n', true],
  ['RFC 2047 2', 'header :is "subject" "=?utf-8?x?a?="', 'Subject: =?utf-8?x?a?=\n\n', true],
  ['RFC 5322 2.2', 'header :is "subject" "x"', 'Subject : x\n\n', true],
  ['RFC 5228 5.7', 'header :contains "subject" "ü"', 'Subject: grün\n\n', true],
  ['RFC 5228 2.7.1', 'header :matches "subject" "??"', 'Subject: ü\n\n', true],
  ['RFC 5228 2.7.1', 'header :matches "subject" "?"', 'Subject: ü\n\n', false],
  ['RFC 5228 5.8', 'not header :is "x-t" "one"', TWICE, false],
  ['RFC 5228 5.8', 'not header :is "x-t" "four"', TWICE, true],
  ['RFC 5228 2.7.4', 'address :domain "from" ""', 'From: postmaster\n\n', false],
  ['RFC 5228 5.1', 'address "subject" "a@x.example"', S('a@x.example'), true],
]);

const MIME = 'Content-Type: text/html; charset=x\nContent-Disposition: attachment; filename=a\nSubject: a/b\n\n';

table('options of :mime on fields that do not have them are the empty string', [
  ['RFC 5703 4.2', 'header :mime :type "content-type" "text"', MIME, true],
  ['RFC 5703 4.2', 'header :mime :subtype "content-type" "html"', MIME, true],
  ['RFC 5703 4.2', 'header :mime :contenttype "content-type" "text/html"', MIME, true],
  ['RFC 5703 4.2', 'header :mime :type "content-disposition" "attachment"', MIME, true],
  ['RFC 5703 4.2', 'header :mime :contenttype "content-disposition" "attachment"', MIME, true],
  ['RFC 5703 4.2', 'header :mime :subtype "content-disposition" ""', MIME, true],
  ['RFC 5703 4.2', 'header :mime :type "subject" ""', MIME, true],
  ['RFC 5703 4.2', 'header :mime :subtype "subject" ""', MIME, true],
  ['RFC 5703 4.2', 'header :mime :contenttype "subject" ""', MIME, true],
  ['RFC 5703 4.2', 'header :mime :contenttype "x-none" ""', MIME, false],
  ['RFC 5703 4.2', 'header :mime :param "filename" "content-disposition" "a"', MIME, true],
]);

describe('body :raw compares octets (RFC 5173 section 5.1)', () => {
  const raw = (body: readonly number[], test: string) =>
    interpreter(parse(`require "body"; if ${test} { discard; }`).script)(
      readMessage(Uint8Array.from([...Buffer.from('Subject: s\n\n'), ...body])),
      { from: null, to: null },
    ).fate.deliveries.length === 0;

  test.each([
    ['body :raw :is "caf?"', [0x63, 0x61, 0x66, 0xe9], false],
    ['body :raw :matches "caf?"', [0x63, 0x61, 0x66, 0xe9], true],
    ['body :raw :contains "é"', [0x63, 0x61, 0x66, 0xe9], false],
    ['body :raw :contains "é"', [0xe2, 0xc3, 0xa9], true],
    ['body :raw :matches "caf??"', [0x63, 0x61, 0x66, 0xc3, 0xa9], true],
    ['body :raw :matches "?é"', [0xe9, 0xc3, 0xa9], true],
    ['body :raw :matches "a?b"', [0x61, 0, 0x62], true],
    ['body :raw :contains "=E9"', [0x3d, 0x45, 0x39], true],
    // The text of the body is decoded, and guessed where no charset is named.
    ['body :contains "é"', [0x63, 0x61, 0x66, 0xe9], true],
  ])('%s of %j: %s', (test, body, holds) => expect(raw(body, test)).toBe(holds));
});
