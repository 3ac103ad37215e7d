import { describe, expect, test } from 'vitest';
import { splitMbox } from '../../mail/mbox';
import { envelopeOf, readMessage } from '../../mail/message';
import { interpreter } from '../interpret/interpret';
import { parse } from '../parse';
import { faultCodes, holds, outcomeOf } from './harness';

/** Where implementers of Sieve go wrong, one group for each trap. Sections are given from memory. */

const S = (subject: string) => `Subject: ${subject}\n\n`;
const octets = (text: string) => new TextEncoder().encode(text);

type Row = readonly [test: string, message: string, holds: boolean];

const trap = (name: string, rows: readonly Row[]) =>
  describe(name, () => {
    test.each(rows)('%s in %j: %s', (asked, message, expected) => {
      expect(holds(asked, message, { plain: true })).toBe(expected);
    });
  });

const fates = (name: string, rows: readonly (readonly [script: string, message: string, outcome: string])[]) =>
  describe(name, () => {
    test.each(rows)('%s on %j: %s', (script, message, outcome) => {
      expect(outcomeOf(script, message)).toBe(outcome);
    });
  });

trap('1. "?" is one octet under i;octet and i;ascii-casemap (RFC 5228 2.7.1)', [
  ['header :matches "subject" "Gr??n"', S('Grün'), true],
  ['header :matches "subject" "Gr?n"', S('Grün'), false],
  ['header :matches :comparator "i;octet" "subject" "Gr??n"', S('Grün'), true],
  ['header :matches "subject" "Gr*n"', S('Grün'), true],
]);

trap('2. i;ascii-casemap folds A to Z alone (RFC 5228 2.7.3, RFC 4790 9.2)', [
  ['header "subject" "GRÜN"', S('Grün'), false],
  ['header "subject" "gRün"', S('Grün'), true],
]);

trap('3. in :matches a backslash makes the next character literal, and the whole value must match (RFC 5228 2.7.1)', [
  ['header :matches "subject" "\\\\*"', S('*'), true],
  ['header :matches "subject" "\\\\*"', S('x'), false],
  ['header :matches "subject" "\\\\x"', S('x'), true],
  ['header :matches "subject" "a[bc]+."', S('a[bc]+.'), true],
  ['header :matches "subject" "a[bc]+."', S('abbx'), false],
  ['header :matches "subject" "oak"', S('oak beam'), false],
]);

trap('4. encoded words are decoded, and blanks between two adjacent ones go (RFC 2047 6.2, RFC 5228 2.7.2)', [
  ['header "subject" "Grün"', S('=?utf-8?q?Gr=C3=BCn?='), true],
  ['header "subject" "ab"', S('=?utf-8?q?a?= =?utf-8?q?b?='), true],
  ['header "subject" "ab"', S('=?utf-8?q?a?=\n =?utf-8?b?Yg==?='), true],
  ['header "subject" "a b"', S('=?utf-8?q?a?= b'), true],
  ['header "subject" "=?utf-8?q?a"', S('=?utf-8?q?a'), true],
]);

trap('5. values are trimmed; an empty header is there, an absent one matches nothing (RFC 5228 5.7)', [
  ['header "subject" "oak"', 'Subject:   oak \t\n\n', true],
  ['header "subject" ""', 'Subject:\n\n', true],
  ['header :matches "subject" "*"', 'Subject:\n\n', true],
  ['exists "subject"', 'Subject:\n\n', true],
  ['header "subject" ""', 'From: a@x.example\n\n', false],
  ['header :matches "subject" "*"', 'From: a@x.example\n\n', false],
  ['header :contains "subject" ""', 'From: a@x.example\n\n', false],
  ['header :contains "subject" ""', S('oak'), true],
]);

trap('6. any occurrence counts; exists wants all names, header any (RFC 5228 5.5, 5.7)', [
  ['header "x-tag" "b"', 'X-Tag: a\nX-Tag: b\n\n', true],
  ['exists ["x-tag", "x-none"]', 'X-Tag: a\n\n', false],
  ['header ["x-none", "x-tag"] "a"', 'X-Tag: a\n\n', true],
  ['not header "x-tag" "a"', 'X-Tag: a\nX-Tag: b\n\n', false],
]);

trap('7. members of groups count, display names do not, a quoted local part is the same (RFC 5228 5.1, 2.7.4)', [
  ['address "to" "ann@x.example"', 'To: team: ann@x.example, bob@x.example;\n\n', true],
  ['address :contains "to" "team"', 'To: team: ann@x.example;\n\n', false],
  ['address :contains "from" "Ann"', 'From: Ann <a@x.example>\n\n', false],
  ['address "from" "bob@x.example"', 'From: "bob"@x.example\n\n', true],
  ['address :localpart "from" "bob"', 'From: "bob"@x.example\n\n', true],
]);

describe('8. K, M and G are powers of 1024, and both comparisons are strict (RFC 5228 2.4.1, 5.9)', () => {
  // Sizes are those of the message with CRLF line ends, as it went over the wire.
  const message = `Subject: x\n\n${'a'.repeat(1024 - 'Subject: x\r\n\r\n'.length)}`;
  test.each([
    ['size :over 1K', false],
    ['size :under 1K', false],
    ['size :over 1023', true],
    ['size :under 1025', true],
    ['size :under 1M', true],
  ])('%s: %s', (asked, expected) => expect(holds(asked, message)).toBe(expected));
});

fates('9. discard only cancels the implicit keep, stop leaves it standing (RFC 5228 4.4, 3.3)', [
  ['discard; keep;', S('x'), 'INBOX'],
  ['fileinto "a"; discard;', S('x'), 'a'],
  ['discard;', S('x'), 'dropped'],
  ['stop; discard;', S('x'), 'INBOX'],
]);

fates('10. the same folder and the same address once (RFC 5228 2.10.3)', [
  ['fileinto "a"; fileinto "a";', S('x'), 'a'],
  ['fileinto "INBOX"; keep;', S('x'), 'INBOX'],
  ['redirect "a@x.example"; redirect "a@X.example";', S('x'), '>a@x.example'],
]);

trap('11. i;ascii-numeric reads the digits at the start, all else is infinity (RFC 4790 9.1)', [
  ['header :comparator "i;ascii-numeric" "subject" "5"', S('5.9'), true],
  ['header :comparator "i;ascii-numeric" "subject" "-3"', S('+7'), true],
  ['header :comparator "i;ascii-numeric" "subject" "abc"', 'Subject:\n\n', true],
  ['header :value "lt" :comparator "i;ascii-numeric" "subject" "-3"', S('99999999999999999999999'), true],
  [
    'header :value "lt" :comparator "i;ascii-numeric" "subject" "100000000000000000000000"',
    S('99999999999999999999999'),
    true,
  ],
]);

trap('12. :count counts header fields, in an address test addresses (RFC 5231)', [
  ['header :count "eq" :comparator "i;ascii-numeric" "x-none" "0"', S('x'), true],
  ['header :count "eq" :comparator "i;ascii-numeric" "to" "1"', 'To: a@x.example, b@x.example\n\n', true],
  ['address :count "eq" :comparator "i;ascii-numeric" "to" "2"', 'To: a@x.example, b@x.example\n\n', true],
  [
    'header :count "eq" :comparator "i;ascii-numeric" ["to", "cc"] "3"',
    'To: a@x.example\nCc: b@x.example\nCc: c@x.example\n\n',
    true,
  ],
]);

trap('13. i;ascii-casemap orders as upper case (RFC 4790 9.2)', [
  ['header :value "gt" "subject" "M"', S('['), true],
  ['header :value "gt" "subject" "m"', S('['), true],
  ['header :value "lt" :comparator "i;octet" "subject" "m"', S('['), true],
]);

fates('14. flags are taken when the action runs, for the implicit keep at the end (RFC 5232)', [
  ['addflag "a"; fileinto :copy "f"; addflag "b";', S('x'), 'f[a] INBOX[a b]'],
  ['fileinto :flags "a" "f"; fileinto :flags "b" "f";', S('x'), 'f[b]'],
  ['addflag "a"; keep :flags "";', S('x'), 'INBOX'],
  ['addflag "a b"; removeflag "A";', S('x'), 'INBOX[b]'],
]);

fates('15. variables (RFC 5229)', [
  ['if header :matches "subject" "*-*" { fileinto "${1}"; }', S('a-b-c'), 'a'],
  [
    'if header :matches "subject" "a*" { if header :matches "subject" "z*" { keep; } else { fileinto "${1}"; } }',
    S('ab'),
    'b',
  ],
  ['if header :contains "subject" "b" { fileinto "[${1}]"; }', S('ab'), '[]'],
  ['set "a" "b"; fileinto "${${a}}";', S('x'), '${b}'],
  ['set :length "n" "Grün"; fileinto "${N}";', S('x'), '4'],
]);

describe('16. body (RFC 5173)', () => {
  const parts = [
    'Content-Type: multipart/mixed; boundary=b',
    '',
    'before',
    '--b',
    'Content-Type: text/plain; charset=utf-8',
    'Content-Transfer-Encoding: base64',
    '',
    'R3LDvG4=',
    '--b',
    'Content-Type: message/rfc822',
    '',
    'Subject: within',
    '',
    'inner words',
    '--b--',
    'after',
    '',
  ].join('\n');
  trap('of parts', [
    ['body :contains "Grün"', parts, true],
    ['body :raw :contains "Grün"', parts, false],
    ['body :raw :contains "R3LDvG4="', parts, true],
    ['body :content "message/rfc822" :contains "Subject: within"', parts, true],
    ['body :content "message/rfc822" :contains "inner words"', parts, false],
    ['body :content "multipart" :contains "before"', parts, true],
    ['body :content "multipart" :contains "after"', parts, true],
    ['body :content "multipart" :contains "Grün"', parts, false],
  ]);
  fates('sets no match variables', [['if body :matches "*" { fileinto "[${1}]"; }', S('x'), '[]']]);
});

trap('17. the detail begins behind the first separator, if there is one (RFC 5233)', [
  ['address :detail :matches "to" "*"', 'To: me@x.example\n\n', false],
  ['address :detail "to" ""', 'To: me+@x.example\n\n', true],
  ['address :detail "to" "a+b"', 'To: me+a+b@x.example\n\n', true],
  ['address :user "to" "me"', 'To: me+a+b@x.example\n\n', true],
  ['address :user "to" "me"', 'To: me@x.example\n\n', true],
]);

trap('18. :index counts header fields, :last from the end (RFC 5260 6)', [
  ['address :index 1 "to" "b@x.example"', 'To: a@x.example, b@x.example\nTo: c@x.example\n\n', true],
  ['address :index 2 "to" "b@x.example"', 'To: a@x.example, b@x.example\nTo: c@x.example\n\n', false],
  ['header :index 1 :last "x-tag" "c"', 'X-Tag: a\nX-Tag: b\nX-Tag: c\n\n', true],
  ['header :index 3 "x-tag" "a"', 'X-Tag: a\nX-Tag: b\n\n', false],
]);

trap('19. zones shift the day; a broken date makes the test false (RFC 5260)', [
  ['date :zone "+0000" "date" "day" "31"', 'Date: Thu, 1 Jan 2026 00:30:00 +0100\n\n', true],
  ['date :zone "+0000" "date" "weekday" "3"', 'Date: Thu, 1 Jan 2026 00:30:00 +0100\n\n', true],
  ['date :originalzone "date" "day" "01"', 'Date: Thu, 1 Jan 2026 00:30:00 +0100\n\n', true],
  ['date :zone "+0000" "date" "weekday" "0"', 'Date: Sun, 4 Jan 2026 12:00:00 +0000\n\n', true],
  ['date :matches "date" "year" "*"', 'Date: yesterday\n\n', false],
  ['date :matches "date" "year" "*"', S('x'), false],
]);

describe('20. encoded characters (RFC 5228 2.4.2.4)', () => {
  test.each([
    ['header "subject" "$${HEX: 40 }"', '$@'],
    ['header "subject" "${Unicode:0040}"', '@'],
    ['header "subject" "${unicode:40"', '${unicode:40'],
    ['header "subject" "${hex:xx}"', '${hex:xx}'],
  ])('%s', (asked, subject) => expect(holds(asked, S(subject))).toBe(true));
  test('a number out of range is an error when the script is compiled', () => {
    expect(faultCodes('require "encoded-character"; if header "a" "${unicode:d800}" {}')).toEqual([
      'bad-encoded-character',
    ]);
    expect(faultCodes('if header "a" "${unicode:d800}" {}')).toEqual([]);
  });
});

describe('21. both ways of quoting "From " in mbox files (RFC 4155; the reversible way is common practice)', () => {
  const body = (quoting: 'reversible' | 'old') => {
    const file = 'From a@x.example Thu Jan  1 10:00:00 2026\nSubject: x\n\n>From here\n>>From there\n> From afar\n';
    const [entry] = splitMbox(octets(file), { quoting, largest: 1e6 });
    return new TextDecoder().decode(entry?.raw).split('\n').slice(2, 5);
  };
  test('reversible: one mark goes from every line', () => {
    expect(body('reversible')).toEqual(['From here', '>From there', '> From afar']);
  });
  test('old: only one is known', () => expect(body('old')).toEqual(['From here', '>>From there', '> From afar']));
});

fates('22. a rejection together with a delivery is an error: the message is kept, and nothing else done (RFC 5429 2)', [
  ['reject "no"; fileinto "a";', S('x'), 'INBOX !a rejection together with a delivery (RFC 5429 section 2)'],
  ['fileinto "a"; reject "no";', S('x'), 'INBOX !a rejection together with a delivery (RFC 5429 section 2)'],
  ['reject "no";', S('x'), 'refused'],
]);

describe('messages from other hands', () => {
  trap('addresses without a domain, and headers in eight bits', [
    ['address :domain "from" ""', 'From: postmaster\n\n', false],
    ['address :domain :matches "from" "*"', 'From: postmaster\n\n', false],
    ['address :localpart "from" "postmaster"', 'From: postmaster\n\n', true],
    ['header :contains "subject" "ü"', S('Grün'), true],
    ['header "subject" "ab"', 'Subject: a\n b\n\n', false],
    ['header "subject" "a b"', 'Subject: a\n b\n\n', true],
    ['header "subject" "oak beam"', 'Subject: =?utf-8?q?oak=20?=\n\t=?utf-8?q?beam?=\n\n', true],
  ]);

  test('eight bits that are no UTF-8 are read as Latin-1 at worst, and never stop a run', () => {
    const raw = Uint8Array.from([...octets('Subject: Gr'), 0xfc, ...octets('n\n\n')]);
    const read = readMessage(raw);
    const { script } = parse('if header :matches "subject" "Gr*n" { discard; }');
    expect(interpreter(script)(read, envelopeOf(read, null)).fate.deliveries).toEqual([]);
  });

  test('several wildcards on a long value are never tried again: this ends only in a linear matcher', () => {
    // Thirty wildcards before a letter that never comes: with going back, more ways than anyone can count.
    const pattern = `${'*a'.repeat(30)}*b*`;
    const run = interpreter(parse(`if header :matches "subject" "${pattern}" { discard; }`).script);
    const dropped = (value: string) => {
      const read = readMessage(octets(S(value)));
      return run(read, envelopeOf(read, null)).fate.deliveries.length === 0;
    };
    expect(dropped('a'.repeat(400_000))).toBe(false);
    expect(dropped(`${'a'.repeat(400_000)}b`)).toBe(true);
    expect(dropped(`${'a'.repeat(29)}b`)).toBe(false);
  });
});
