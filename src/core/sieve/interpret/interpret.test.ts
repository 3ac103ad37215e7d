import { describe, expect, test } from 'vitest';
import { envelopeOf, readMessage } from '../../mail/message';
import { check } from '../check';
import { parse } from '../parse';
import { type Fate, isDropped } from './fate';
import { interpreter } from './interpret';

const REQUIRE = 'require ["fileinto", "copy", "envelope", "imap4flags"];\n';

function run(script: string, message: string): Fate {
  const { script: tree, diagnostics } = parse(REQUIRE + script);
  expect([...diagnostics, ...check(tree)]).toEqual([]);
  const read = readMessage(new TextEncoder().encode(message));
  return interpreter(tree)(read, envelopeOf(read, 'me@mill.example')).fate;
}

/** Whether a test holds for a message. */
const holds = (sieveTest: string, message: string): boolean => isDropped(run(`if ${sieveTest} { discard; }`, message));
const folders = (script: string, message = 'Subject: x\n\n'): string[] =>
  run(script, message).deliveries.map(({ folder, flags }) => [folder, ...flags].join(' '));

describe('header and match types (RFC 5228 sections 2.7 and 5.7)', () => {
  test.each([
    ['? is one octet, so two for ü in UTF-8', 'header :matches "subject" "Gr??n"', 'Subject: Grün\n\n', true],
    ['and one is too few', 'header :matches "subject" "Gr?n"', 'Subject: Grün\n\n', false],
    ['i;ascii-casemap folds A to Z only', 'header "subject" "GRÜN"', 'Subject: Grün\n\n', false],
    ['but those it does fold', 'header "subject" "gRüN"', 'Subject: Grün\n\n', true],
    ['i;octet folds nothing', 'header :comparator "i;octet" "subject" "Oak"', 'Subject: oak\n\n', false],
    ['\\* in a pattern is a star', 'header :matches "subject" "a\\\\*b"', 'Subject: a*b\n\n', true],
    ['and no wildcard', 'header :matches "subject" "a\\\\*b"', 'Subject: axb\n\n', false],
    ['brackets and + are literal', 'header :matches "subject" "[a]+."', 'Subject: [a]+.\n\n', true],
    ['and no classes', 'header :matches "subject" "[a]+."', 'Subject: aax\n\n', false],
    ['the whole value must match', 'header :matches "subject" "oak"', 'Subject: oak beam\n\n', false],
    ['several stars', 'header :matches "subject" "*a*b*a*"', 'Subject: xxaxxbxxa\n\n', true],
    ['values are trimmed at both ends', 'header :is "subject" "oak"', 'Subject:   oak  \n\n', true],
    ['an empty header is there and is empty', 'header :is "subject" ""', 'Subject:\n\n', true],
    ['an absent one matches nothing', 'header :matches "subject" "*"', 'To: a@b.example\n\n', false],
    ['the empty key is in every value', 'header :contains "subject" ""', 'Subject: x\n\n', true],
    ['but not where there is none', 'header :contains "subject" ""', 'To: a@b.example\n\n', false],
    ['any occurrence counts', 'header :is "x-tag" "two"', 'X-Tag: one\nX-Tag: two\n\n', true],
    ['folded fields are unfolded', 'header :is "subject" "a  b"', 'Subject: a\n  b\n\n', true],
    ['encoded words are decoded', 'header :is "subject" "Grün"', 'Subject: =?utf-8?q?Gr=C3=BCn?=\n\n', true],
    ['blanks between two of them go', 'header :is "subject" "ab"', 'Subject: =?utf-8?q?a?=\n =?utf-8?q?b?=\n\n', true],
    ['blanks beside plain text stay', 'header :is "subject" "a b"', 'Subject: =?utf-8?q?a?= b\n\n', true],
    ['a character cut in two', 'header :is "subject" "ü"', 'Subject: =?utf-8?q?=C3?= =?utf-8?q?=BC?=\n\n', true],
    ['names of headers are caseless', 'header :is "SUBJECT" "x"', 'subject: x\n\n', true],
  ])('%s', (_name, sieveTest, message, expected) => {
    expect(holds(sieveTest, message)).toBe(expected);
  });

  test('many stars on a long value take no time', () => {
    const pattern = `${'*a'.repeat(40)}*b`;
    expect(holds(`header :matches "subject" "${pattern}"`, `Subject: ${'a'.repeat(50_000)}\n\n`)).toBe(false);
  });
});

describe('address (RFC 5228 sections 2.7.4 and 5.1)', () => {
  test.each([
    ['display names do not count', 'address :contains "from" "Ann"', 'From: Ann <x@y.example>\n\n', false],
    ['members of groups do', 'address :is "to" "b@y.example"', 'To: Team: a@x.example, b@y.example;\n\n', true],
    ['an empty group has none', 'address :matches "to" "*"', 'To: nobody:;\n\n', false],
    ['quoting makes no difference', 'address :is "from" "bob@x.example"', 'From: "bob"@x.example\n\n', true],
    ['a quoted comma cuts nothing', 'address :is "from" "b@x.example"', 'From: "Lee, Ann" <b@x.example>\n\n', true],
    ['local part', 'address :localpart :is "from" "ann.lee"', 'From: ann.lee@x.example\n\n', true],
    ['domain', 'address :domain :is "from" "X.example"', 'From: ann@x.example\n\n', true],
    ['no domain, no value', 'address :domain :matches "from" "*"', 'From: postmaster\n\n', false],
    ['comments are passed over', 'address :is "from" "a@x.example"', 'From: (A (nested)) a@x.example (end)\n\n', true],
    ['any of several', 'address :is "cc" "c@x.example"', 'Cc: a@x.example,\n b@x.example, C <c@x.example>\n\n', true],
    ['of repeated fields too', 'address :is "cc" "c@x.example"', 'Cc: a@x.example\nCc: c@x.example\n\n', true],
    [
      'an encoded name hides its comma',
      'address :is "from" "a@x.example"',
      'From: =?utf-8?q?Lee=2C_Ann?= <a@x.example>\n\n',
      true,
    ],
    ['routes are dropped', 'address :is "from" "a@x.example"', 'From: <@r.example,@s.example:a@x.example>\n\n', true],
    ['what is broken is passed over', 'address :is "to" "b@x.example"', 'To: <<<, b@x.example\n\n', true],
  ])('%s', (_name, sieveTest, message, expected) => {
    expect(holds(sieveTest, message)).toBe(expected);
  });
});

describe('other tests', () => {
  test('exists wants all names, header any (sections 5.5, 5.7)', () => {
    expect(holds('exists ["subject", "cc"]', 'Subject: x\n\n')).toBe(false);
    expect(holds('header :contains ["subject", "cc"] ""', 'Subject: x\n\n')).toBe(true);
  });

  test('size is strict both ways, and counts CRLF (section 5.9)', () => {
    const twelve = 'A: b\n\nxyz\n';
    expect(new TextEncoder().encode(twelve.replaceAll('\n', '\r\n')).length).toBe(13);
    expect(holds('size :over 13', twelve)).toBe(false);
    expect(holds('size :under 13', twelve)).toBe(false);
    expect(holds('size :over 12', twelve)).toBe(true);
    expect(holds('size :under 14', twelve)).toBe(true);
  });

  test('envelope; the null reverse-path is empty (section 5.4)', () => {
    expect(holds('envelope :domain "from" "y.example"', 'Return-Path: <x@y.example>\n\n')).toBe(true);
    expect(holds('envelope :is "from" ""', 'Return-Path: <>\n\n')).toBe(true);
    expect(holds('envelope :domain :is "from" ""', 'Return-Path: <>\n\n')).toBe(true);
    expect(holds('envelope :matches "from" "*"', 'Subject: x\n\n')).toBe(false);
    expect(holds('envelope :is "to" "me@mill.example"', 'Subject: x\n\n')).toBe(true);
  });

  test('not, anyof, allof, true, false (sections 5.2, 5.3, 5.6, 5.8, 5.10)', () => {
    expect(holds('allof (true, not false, anyof (false, true))', '\n')).toBe(true);
    expect(holds('anyof (false, not true)', '\n')).toBe(false);
  });
});

describe('actions and the implicit keep (RFC 5228 sections 2.10 and 4)', () => {
  test('nothing done is a keep', () => expect(folders('')).toEqual(['INBOX']));
  test('discard only cancels it', () => expect(folders('discard; fileinto "a";')).toEqual(['a']));
  test('stop leaves it standing', () => expect(folders('stop; discard;')).toEqual(['INBOX']));
  test('the same folder twice is one delivery', () => expect(folders('fileinto "a"; fileinto "a";')).toEqual(['a']));
  test('fileinto INBOX and keep are one', () => expect(folders('fileinto "inbox"; keep;')).toEqual(['INBOX']));
  test(':copy leaves the keep (RFC 3894)', () => expect(folders('fileinto :copy "a";')).toEqual(['a', 'INBOX']));
  test('redirects to one address go out once', () => {
    const fate = run('redirect "a@X.example"; redirect :copy "a@x.example";', 'Subject: x\n\n');
    expect(fate).toEqual({
      deliveries: [],
      redirects: ['a@x.example'],
      rejected: false,
      refusal: null,
      replies: [],
    });
  });
  test('elsif and else', () => {
    expect(folders('if false { discard; } elsif true { fileinto "b"; } else { fileinto "c"; }')).toEqual(['b']);
    expect(folders('if false { discard; } elsif false { fileinto "b"; } else { fileinto "c"; }')).toEqual(['c']);
  });
});

describe('flags (RFC 5232)', () => {
  test('are taken when the action runs', () => {
    expect(folders('addflag "A"; fileinto "x"; addflag "B";')).toEqual(['x a']);
  });
  test('for the implicit keep at the end', () => expect(folders('addflag "B"; setflag "A";')).toEqual(['INBOX a']));
  test('the last list wins with duplicates', () => {
    expect(folders('fileinto :flags "a" "x"; fileinto :flags "b" "x";')).toEqual(['x b']);
  });
  test(':flags "" is none', () => expect(folders('addflag "a"; keep :flags "";')).toEqual(['INBOX']));
  test('"a b" is two, and case does not count', () => {
    expect(folders('addflag "\\\\Seen $X"; addflag "\\\\SEEN"; removeflag "$x";')).toEqual(['INBOX \\seen']);
  });
  test('hasflag looks at them one by one', () => {
    expect(folders('addflag ["a", "b"]; if hasflag :is "B" { fileinto "x"; }')).toEqual(['x a b']);
    expect(folders('if hasflag :matches "*" { discard; }')).toEqual(['INBOX']);
  });
});
