import { describe, expect, test } from 'vitest';
import { parse } from '../parse';
import { outcomeOf, type Setting } from './harness';

type Row = readonly [section: string, script: string, message: string, outcome: string, setting?: Setting];

const table = (name: string, rows: readonly Row[]) =>
  describe(name, () => {
    test.each(rows.map((row) => [row[0], row[1], row[3], row] as const))('%s: %s gives %s', (_s, _t, _o, row) => {
      expect(outcomeOf(row[1], row[2], row[4])).toBe(row[3]);
    });
  });

const M = 'From: a@x.example\nTo: me@mill.example\nSubject: hello\nReturn-Path: <a@x.example>\n\ntext\n';

table('implicit keep in every combination (RFC 5228 2.10.2)', [
  ['RFC 5228 2.10.2', '', M, 'INBOX'],
  ['RFC 5228 2.10.2', 'keep;', M, 'INBOX'],
  ['RFC 5228 2.10.2', 'discard;', M, 'dropped'],
  ['RFC 5228 2.10.2', 'fileinto "a";', M, 'a'],
  ['RFC 5228 2.10.2', 'redirect "b@x.example";', M, '>b@x.example'],
  ['RFC 5228 2.10.2', 'discard; keep;', M, 'INBOX'],
  ['RFC 5228 2.10.2', 'fileinto "a"; keep;', M, 'a INBOX'],
  ['RFC 5228 2.10.2', 'redirect "b@x.example"; keep;', M, 'INBOX >b@x.example'],
  ['RFC 5228 2.10.2', 'discard; redirect "b@x.example";', M, '>b@x.example'],
  ['RFC 5228 2.10.2', 'stop;', M, 'INBOX'],
  ['RFC 5228 2.10.2', 'discard; stop; keep;', M, 'dropped'],
  ['RFC 5228 2.10.3', 'fileinto "INBOX"; keep; fileinto "inbox";', M, 'INBOX'],
  ['RFC 3894 3', 'fileinto :copy "a"; redirect :copy "b@x.example";', M, 'a INBOX >b@x.example'],
  ['RFC 3894 3', 'fileinto :copy "a"; discard;', M, 'a'],
  ['RFC 5229 3', 'set "x" "1";', M, 'INBOX'],
]);

table('imap4flags (RFC 5232)', [
  ['RFC 5232 3.1', 'setflag "\\\\Deleted"; fileinto "a";', M, 'a[\\deleted]'],
  ['RFC 5232 3.2', 'addflag "a"; addflag ["b", "a c"];', M, 'INBOX[a b c]'],
  ['RFC 5232 3.3', 'addflag ["a", "b"]; removeflag "A";', M, 'INBOX[b]'],
  ['RFC 5232 3', 'addflag "x" "a b"; keep :flags "${x}";', M, 'INBOX[a b]'],
  ['RFC 5232 3', 'setflag "x" "a"; addflag "x" "b"; removeflag "x" "a"; fileinto :flags "${x}" "f";', M, 'f[b]'],
  ['RFC 5232 4', 'setflag "x" "a"; if hasflag "x" "A" { discard; }', M, 'dropped'],
  [
    'RFC 5232 4',
    'addflag ["a", "b"]; if hasflag :count "eq" :comparator "i;ascii-numeric" "2" { fileinto :flags "" "f"; }',
    M,
    'f',
  ],
  ['RFC 5232 4', 'addflag "important"; if hasflag :contains "PORT" { discard; }', M, 'dropped'],
  ['RFC 5232 5', 'addflag "a"; fileinto :copy "f"; removeflag "a";', M, 'f[a] INBOX'],
  ['RFC 5232 5', 'fileinto :flags "a" "f"; fileinto :flags "b" "f";', M, 'f[b]'],
  ['RFC 5232 5', 'addflag "a"; keep :flags "";', M, 'INBOX'],
]);

table('variables (RFC 5229)', [
  ['RFC 5229 3', 'set "a" "x"; fileinto "${a}";', M, 'x'],
  ['RFC 5229 3', 'set "A" "x"; fileinto "${a}";', M, 'x'],
  ['RFC 5229 3', 'fileinto "[${unknown}]";', M, '[]'],
  ['RFC 5229 3', 'set "a" "b"; fileinto "${${a}}";', M, '${b}'],
  ['RFC 5229 3', 'fileinto "${bad name}";', M, '${bad name}'],
  ['RFC 5229 3', 'fileinto "${}";', M, '${}'],
  ['RFC 5229 3', 'set "to" "b@x.example"; redirect "${to}";', M, '>b@x.example'],
  ['RFC 5228 2.10.6', 'redirect "${to}";', M, 'INBOX !redirect was given an incomplete address'],
  ['RFC 5229 3', 'set "k" "h.l+o"; if header :regex "subject" "${k}" { discard; }', M, 'dropped'],
  [
    'RFC 5228 2.10.6',
    'set "k" "("; if header :regex "subject" "${k}" { discard; }',
    M,
    'INBOX !a ( without a matching ) in a regular expression',
  ],
  ['RFC 5229 3', 'set "a" "$"; set "b" "${a}{x}"; fileinto "${b}";', M, '${x}'],
  ['RFC 5229 3.2', 'if header :matches "subject" "h*o" { fileinto "${1}"; }', M, 'ell'],
  ['RFC 5229 3.2', 'if header :matches "subject" "*l*" { fileinto "${1}-${2}"; }', M, 'he-lo'],
  ['RFC 5229 3.2', 'if header :matches "subject" "?*" { fileinto "${1}|${2}|${0}"; }', M, 'h|ello|hello'],
  [
    'RFC 5229 3.2',
    'if header :matches "subject" "h*" { } if header :matches "subject" "z*" { } fileinto "${1}";',
    M,
    'ello',
  ],
  [
    'RFC 5229 3.2',
    'if header :matches "subject" "h*" { } if header :contains "subject" "l" { } fileinto "${1}";',
    M,
    'ello',
  ],
  ['RFC 5229 3.2', 'if header :matches "subject" "h*" { } fileinto "[${9}]";', M, '[]'],
  ['RFC 5229 3.2', 'if body :matches "*e*" { } fileinto "[${1}]";', M, '[]'],
  ['RFC 5229 3.2', 'if header :regex "subject" "h(.)l" { fileinto "${1}${0}"; }', M, 'ehel'],
  ['RFC 5229 3.2', 'if address :matches "from" "*@*" { fileinto "${2}/${1}"; }', M, 'x.example/a'],
  ['RFC 5229 3.2', 'if header :matches :comparator "i;unicode-casemap" "subject" "H*" { fileinto "${1}"; }', M, 'ello'],
  ['RFC 5229 4.1', 'set :upper "a" "xYz"; fileinto "${a}";', M, 'XYZ'],
  ['RFC 5229 4.1', 'set :lower :upperfirst "a" "jOHN"; fileinto "${a}";', M, 'John'],
  ['RFC 5229 4.1', 'set :lowerfirst "a" "ABC"; fileinto "${a}";', M, 'aBC'],
  ['RFC 5229 4.1.3', 'set :quotewildcard "a" "a*b?c\\\\d"; fileinto "${a}";', M, 'a\\*b\\?c\\\\d'],
  ['RFC 5229 4.1.4', 'set :length "a" "grün"; fileinto "${a}";', M, '4'],
  ['RFC 5229 4.1.4', 'set :length "a" ""; fileinto "${a}";', M, '0'],
  ['RFC 5229 4.1', 'set :length :upper "a" "abc"; fileinto "${a}";', M, '3'],
  ['RFC 5435 6', 'set :encodeurl "a" "safe body&evil=evil"; fileinto "${a}";', M, 'safe%20body%26evil%3Devil'],
  ['RFC 5229 5', 'set "a" "x"; if string "${a}" ["y", "X"] { discard; }', M, 'dropped'],
  ['RFC 5229 5', 'if string :count "eq" :comparator "i;ascii-numeric" ["a", "", "b"] "2" { discard; }', M, 'dropped'],
  ['RFC 5229 5', 'if string :matches "a.b" "*.*" { fileinto "${2}${1}"; }', M, 'ba'],
]);

table('reject and ereject (RFC 5429)', [
  ['RFC 5429 2.1', 'ereject "no";', M, 'refused'],
  ['RFC 5429 2.2', 'reject "no"; stop;', M, 'refused'],
  ['RFC 5429 2.2', 'reject "no"; discard;', M, 'refused'],
  [
    'RFC 5429 2',
    'if true { reject "no"; } if true { fileinto "a"; }',
    M,
    'INBOX !a rejection together with a delivery (RFC 5429 section 2)',
  ],
  [
    'RFC 5429 2',
    'if true { keep; } if true { reject "no"; }',
    M,
    'INBOX !a rejection together with a delivery (RFC 5429 section 2)',
  ],
]);

const list = M.replace('Subject', 'List-Id: <l.example>\nSubject');
const auto = M.replace('Subject', 'Auto-Submitted: auto-replied\nSubject');
const AWAY = '~reply [null,"away"]';
table('vacation (RFC 5230, RFC 6131)', [
  ['RFC 5230 4', 'vacation "away";', M, `INBOX ${AWAY}`],
  ['RFC 5230 4', 'vacation :days 1 "away"; discard;', M, AWAY],
  ['RFC 5230 4.3', 'vacation :subject "gone" "away";', M, 'INBOX ~reply ["gone","away"]'],
  ['RFC 5230 4.5', 'vacation "away";', M.replace('To: me@', 'To: you@'), 'INBOX'],
  ['RFC 5230 4.5', 'vacation :addresses "you@mill.example" "away";', M.replace('To: me@', 'To: you@'), `INBOX ${AWAY}`],
  ['RFC 5230 4.5', 'vacation "away";', M.replace('To: me@mill.example', 'Cc: Me <ME@mill.example>'), `INBOX ${AWAY}`],
  ['RFC 5230 4.6', 'vacation "away";', list, 'INBOX'],
  ['RFC 5230 4.6', 'vacation "away";', auto, 'INBOX'],
  ['RFC 5230 4.6', 'vacation "away";', auto.replace('auto-replied', 'no'), `INBOX ${AWAY}`],
  ['RFC 5230 4.6', 'vacation "away";', M.replace('<a@x', '<owner-list@x'), 'INBOX'],
  ['RFC 5230 4.6', 'vacation "away";', M.replace('<a@x.example>', '<>'), 'INBOX'],
  ['RFC 5230 4.6', 'vacation "away";', M.replace('<a@x.example>', '<me@mill.example>'), 'INBOX'],
  [
    'RFC 5230 4.7',
    'vacation "away"; if true { vacation "again"; }',
    M,
    'INBOX !vacation was executed twice (RFC 5230 section 4.7)',
  ],
  ['RFC 6131 2', 'vacation :seconds 60 "away";', M, `INBOX ${AWAY}`],
  ['RFC 8580 3', 'vacation :fcc "Sent" :flags "\\\\Seen" "away";', M, `INBOX ${AWAY}`],
]);

table('enotify (RFC 5435)', [
  ['RFC 5435 3', 'notify "mailto:b@x.example";', M, 'INBOX ~notify ["mailto:b@x.example",null]'],
  [
    'RFC 5435 3.6',
    'notify :importance "1" :message "new" "mailto:b@x.example"; discard;',
    M,
    '~notify ["mailto:b@x.example","new"]',
  ],
  ['RFC 5436 2.7.1', 'notify "mailto:b@x.example";', auto.replace('auto-replied', 'auto-notified'), 'INBOX'],
]);

table('editheader (RFC 5293)', [
  ['RFC 5293 4', 'addheader "X-A" "1"; if header "x-a" "1" { discard; }', M, 'dropped'],
  ['RFC 5293 4', 'addheader "Subject" "new"; if header :index 1 "subject" "new" { discard; }', M, 'dropped'],
  [
    'RFC 5293 4',
    'addheader :last "Subject" "new"; if header :last :index 1 "subject" "new" { discard; }',
    M,
    'dropped',
  ],
  ['RFC 5293 5', 'deleteheader "subject"; if not exists "subject" { discard; }', M, 'dropped'],
  ['RFC 5293 5', 'deleteheader :contains "subject" "zzz"; if exists "subject" { discard; }', M, 'dropped'],
  ['RFC 5293 5', 'deleteheader :contains "subject" "ELL"; if not exists "subject" { discard; }', M, 'dropped'],
  [
    'RFC 5293 5',
    'deleteheader :index 1 "x-t"; if header :count "eq" :comparator "i;ascii-numeric" "x-t" "1" { discard; }',
    'X-T: a\nX-T: b\n\n',
    'dropped',
  ],
  [
    'RFC 5293 5',
    'deleteheader :index 1 :last "x-t"; if header "x-t" "a" { discard; }',
    'X-T: a\nX-T: b\n\n',
    'dropped',
  ],
  ['RFC 5293 7', 'deleteheader "received"; if exists "received" { discard; }', `Received: x\n${M}`, 'dropped'],
  [
    'RFC 5293 4',
    'set "v" "two${unicode:d a}X-Evil: 1"; addheader "X-A" "${v}"; if exists "x-evil" { discard; }',
    M,
    'INBOX',
  ],
]);

table('duplicate (RFC 7352), special-use (RFC 8579), mailbox (RFC 5490), extlists (RFC 6134)', [
  ['RFC 7352 3', 'if duplicate { discard; }', `Message-ID: <1@x>\n${M}`, 'INBOX'],
  // A run does not see what it has noted itself.
  ['RFC 7352 3', 'if duplicate { keep; } if duplicate { discard; }', `Message-ID: <1@x>\n${M}`, 'INBOX'],
  [
    'RFC 8579 4',
    'fileinto :specialuse "\\\\Junk" "Other";',
    M,
    'Spam',
    { world: { specialUse: new Map([['\\junk', 'Spam']]) } },
  ],
  ['RFC 8579 4', 'fileinto :specialuse "\\\\Junk" "Other";', M, 'Other'],
  ['RFC 5490 3.2', 'fileinto :create "New";', M, 'New'],
  [
    'RFC 6134 2.5',
    'redirect :list "team";',
    M,
    '>a@x.example >b@x.example',
    { world: { lists: new Map([['team', new Set(['a@x.example', 'b@x.example'])]]) } },
  ],
  ['RFC 6009 5', 'redirect :notify "NEVER" :ret "HDRS" "b@x.example";', M, '>b@x.example'],
]);

const PARTS =
  'Content-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nfirst part\n--b\nContent-Type: text/html\n\n<i>second</i>\n--b--\n';
table('foreverypart and friends (RFC 5703)', [
  ['RFC 5703 3', 'foreverypart { if header :mime :subtype "content-type" "html" { fileinto "html"; } }', PARTS, 'html'],
  ['RFC 5703 3', 'foreverypart { fileinto "x"; break; fileinto "y"; }', PARTS, 'x'],
  [
    'RFC 5703 3',
    'foreverypart :name "outer" { foreverypart { fileinto "x"; break :name "outer"; } fileinto "y"; }',
    PARTS,
    'x',
  ],
  ['RFC 5703 3', 'foreverypart { if header :mime :type "content-type" "text" { stop; } discard; }', PARTS, 'dropped'],
  [
    'RFC 5703 7',
    'foreverypart { if header :mime :subtype "content-type" "plain" { extracttext :first 5 "t"; fileinto "${t}"; } }',
    PARTS,
    'first',
  ],
  [
    'RFC 5703 7',
    'foreverypart { if header :mime :subtype "content-type" "html" { extracttext :upper "t"; fileinto "${t}"; } }',
    PARTS,
    'SECOND',
  ],
  [
    'RFC 5703 7',
    'foreverypart { if header :mime :subtype "content-type" "html" { extracttext :upperfirst :first 2 "t"; fileinto "${t}"; } }',
    PARTS,
    'Se',
  ],
  [
    'RFC 5703 7',
    'foreverypart { if header :mime :subtype "content-type" "html" { extracttext :length :first 4 "t"; fileinto "${t}"; } }',
    PARTS,
    '4',
  ],
  ['RFC 5703 5', 'foreverypart { replace "gone"; } fileinto "x";', PARTS, 'x'],
  ['RFC 5703 6', 'enclose :subject "s" :headers ["From"] "words"; fileinto "x";', PARTS, 'x'],
]);

const script = (text: string) => parse(`require ["include", "variables", "fileinto"];\n${text}`).script;
const INCLUDED: Readonly<Record<string, ReturnType<typeof script>>> = {
  'personal file': script('fileinto "inner";'),
  'personal stop': script('stop;'),
  'personal return': script('return; discard;'),
  'personal self': script('include "self";'),
  'personal set': script('global "g"; set "g" "shared"; set "own" "mine";'),
  'personal own': script('fileinto "[${own}]";'),
  'global file': script('fileinto "from global";'),
};
const scripts = {
  world: {
    script: (name: string, location: string) => INCLUDED[`${location} ${name}`] ?? null,
  },
};
table('include (RFC 6609), error (RFC 5463)', [
  ['RFC 6609 3.1', 'include "file";', M, 'inner', scripts],
  ['RFC 6609 3.1', 'include :global "file";', M, 'from global', scripts],
  ['RFC 6609 3.1', 'include :optional "none"; fileinto "x";', M, 'x', scripts],
  ['RFC 6609 3.1', 'fileinto "x"; include "none";', M, 'INBOX !there is no personal script "none" to include', scripts],
  ['RFC 6609 3.1', 'include "self";', M, 'INBOX !the script "self" includes itself', scripts],
  ['RFC 6609 3.3', 'include "return"; fileinto "x";', M, 'x', scripts],
  ['RFC 6609 3.3', 'include "stop"; discard;', M, 'INBOX', scripts],
  ['RFC 6609 3.3', 'return; discard;', M, 'INBOX', scripts],
  ['RFC 6609 3.4', 'global "g"; include "set"; fileinto "${g}";', M, 'shared', scripts],
  ['RFC 6609 3.4', 'include "set"; fileinto "[${own}${global.g}]";', M, '[shared]', scripts],
  ['RFC 6609 3.4', 'set "own" "outer"; include "own";', M, '[]', scripts],
  ['RFC 6609 3.1', 'include :once "file"; include :once "file"; keep;', M, 'inner INBOX', scripts],
  ['RFC 5463 5', 'fileinto "x"; error "no way";', M, 'INBOX !no way'],
]);

const TWO = 'To: list-to@x.example\nSubject: subject one\nX-First: first two\nReturn-Path: <a@x.example>\n\ntext\n';

table('match variables are set in the order of the script, not of the message', [
  ['RFC 5229 3.2', 'if header :matches ["x-first", "subject"] "* *" { fileinto "${1}"; }', TWO, 'first'],
  ['RFC 5229 3.2', 'if header :matches ["subject", "x-first"] "* *" { fileinto "${1}"; }', TWO, 'subject'],
  [
    'RFC 5229 3.2',
    'if header :matches ["x-first", "subject"] ["subject *", "first *"] { fileinto "${1}"; }',
    TWO,
    'two',
  ],
  ['RFC 5229 3.2', 'if address :matches :localpart ["cc", "to"] "*-*" { fileinto "${2}"; }', TWO, 'to'],
  [
    'RFC 5229 3.2',
    'if anyof (header :matches "subject" "* *", header :matches "x-first" "* *") { fileinto "${1}"; }',
    TWO,
    'subject',
  ],
  [
    'RFC 5229 3.2',
    'if anyof (header :matches "subject" "no *", header :matches "x-first" "* *") { fileinto "${1}"; }',
    TWO,
    'first',
  ],
  ['draft-ietf-sieve-regex', 'if header :regex "x-first" "(fir|first)" { fileinto "${1}"; }', TWO, 'first'],
]);

const FROM_ME = 'From: a@x.example\nTo: me@mill.example\nSubject: s\nReturn-Path: <a@x.example>\n\ntext\n';

table('a refusal beside what it excludes keeps the message, with an error', [
  [
    'RFC 5230 4.7',
    'reject "no"; vacation "away";',
    FROM_ME,
    'INBOX !a rejection together with a vacation reply (RFC 5230 section 4.7)',
  ],
  [
    'RFC 5230 4.7',
    'vacation "away"; ereject "no";',
    FROM_ME,
    'INBOX !a rejection together with a vacation reply (RFC 5230 section 4.7)',
  ],
  ['RFC 5429 2', 'reject "no"; reject "no";', FROM_ME, 'INBOX !the message was rejected twice (RFC 5429 section 2)'],
  [
    'RFC 5429 2',
    'if true { reject "no"; } if true { ereject "no"; }',
    FROM_ME,
    'INBOX !the message was rejected twice (RFC 5429 section 2)',
  ],
  ['RFC 5429 2', 'reject "no"; keep;', FROM_ME, 'INBOX !a rejection together with a delivery (RFC 5429 section 2)'],
  ['RFC 5429 2', 'reject "no"; discard;', FROM_ME, 'refused'],
]);
