import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chainFromSieve } from './from-sieve';
import type { TestTree } from './rule';
import { sentenceOf, sizeWords, treeWords } from './sentence';

const REQUIRED = [
  'fileinto',
  'reject',
  'copy',
  'body',
  'date',
  'index',
  'relational',
  'comparator-i;ascii-numeric',
  'imap4flags',
  'regex',
  'envelope',
  'subaddress',
  'mime',
  'spamtest',
  'duplicate',
  'mailbox',
  'special-use',
  'extlists',
  'vacation',
];

/** Rules as people have them, each with the sentence that a mail user reads (need N5). */
const SAID: readonly (readonly [string, string])[] = [
  [
    `if header :contains "subject" "oak" { fileinto "Oak"; }`,
    'When the subject contains “oak”: file into “Oak”; later rules still run.',
  ],
  [
    `if header :contains "subject" ["oak", "elm"] { fileinto "Timber"; stop; }`,
    'When the subject contains “oak” or “elm”: file into “Timber”, then stop.',
  ],
  [
    `if not header :contains "subject" ["oak", "elm"] { fileinto "Other"; stop; }`,
    'When the subject contains neither “oak” nor “elm”: file into “Other”, then stop.',
  ],
  [
    `if not header :contains "subject" ["oak", "elm", "ash"] { keep; stop; }`,
    'When the subject does not contain “oak”, “elm” or “ash”: keep in the inbox, then stop.',
  ],
  [
    `if header :contains "subject" ["oak", "elm", "ash", "yew", "fir", "box"] { fileinto "Timber"; }`,
    'When the subject contains “oak”, “elm”, “ash” or any of 3 more: file into “Timber”; later rules still run.',
  ],
  [`if header :is "x-spam-flag" "YES" { discard; }`, 'When X-Spam-Flag is “YES”: discard; later rules still run.'],
  [
    `if header :contains ["to", "cc"] "volunteers@mill.example" { fileinto "Volunteers"; }`,
    'When To or Cc contains “volunteers@mill.example”: file into “Volunteers”; later rules still run.',
  ],
  [
    `if not header :contains ["to", "cc"] "volunteers@mill.example" { fileinto "Elsewhere"; }`,
    'When neither To nor Cc contains “volunteers@mill.example”: file into “Elsewhere”; later rules still run.',
  ],
  [
    `if not header :contains ["to", "cc", "bcc"] ["ann", "ben"] { fileinto "Elsewhere"; }`,
    'When none of To, Cc and Bcc contains “ann” or “ben”: file into “Elsewhere”; later rules still run.',
  ],
  [
    `if header :matches "subject" "*[weir*" { fileinto "Weir"; stop; }`,
    'When the subject matches “*[weir*”: file into “Weir”, then stop.',
  ],
  [
    `if not header :matches "subject" "?*" { fileinto "No subject"; }`,
    'When the subject does not match “?*”: file into “No subject”; later rules still run.',
  ],
  [
    `if header :comparator "i;octet" :contains "subject" "URGENT" { addflag "\\\\Flagged"; keep; }`,
    'When the subject contains “URGENT” (case-sensitive): mark as flagged and keep in the inbox; later rules still run.',
  ],
  [
    `if header :regex "subject" "^(re|fwd):" { keep; }`,
    'When the subject matches the regular expression “^(re|fwd):”: keep in the inbox; later rules still run.',
  ],
  [
    `if address :is "from" "ann@mill.example" { fileinto "Ann"; }`,
    'When the address in From is “ann@mill.example”: file into “Ann”; later rules still run.',
  ],
  [
    `if address :domain :is "from" ["mill.example", "quarry.example"] { fileinto "Yards"; stop; }`,
    'When the domain of From is “mill.example” or “quarry.example”: file into “Yards”, then stop.',
  ],
  [
    `if address :domain :matches ["from", "sender"] "*.river.example" { fileinto "River"; }`,
    'When the domain of From or Sender matches “*.river.example”: file into “River”; later rules still run.',
  ],
  [
    `if not address :domain :matches ["from", "sender"] "*.river.example" { discard; }`,
    'When the domain of neither From nor Sender matches “*.river.example”: discard; later rules still run.',
  ],
  [
    `if address :localpart :is "from" "noreply" { setflag "\\\\Seen"; fileinto "Notices"; stop; }`,
    'When the local part of From is “noreply”: mark as seen only and file into “Notices”, then stop.',
  ],
  [
    `if address :contains ["to", "cc"] "maren" { keep; stop; }`,
    'When an address in To or Cc contains “maren”: keep in the inbox, then stop.',
  ],
  [
    `if not address :is ["to", "cc"] "maren@mill.example" { fileinto "Not to me"; }`,
    'When no address in To or Cc is “maren@mill.example”: file into “Not to me”; later rules still run.',
  ],
  [
    `if address :user "to" "maren" { keep; }`,
    'When a local part before “+” in To is “maren”: keep in the inbox; later rules still run.',
  ],
  [
    `if address :detail "to" ["shop", "sales"] { fileinto "Shop"; }`,
    'When a local part after “+” in To is “shop” or “sales”: file into “Shop”; later rules still run.',
  ],
  [
    `if envelope :is "from" "" { fileinto "Bounces"; stop; }`,
    'When the envelope sender is empty: file into “Bounces”, then stop.',
  ],
  [
    `if envelope :domain :is "to" "mill.example" { keep; }`,
    'When the domain of the envelope recipient is “mill.example”: keep in the inbox; later rules still run.',
  ],
  [
    `if exists "list-id" { fileinto "Lists"; }`,
    'When the field List-Id is present: file into “Lists”; later rules still run.',
  ],
  [`if not exists "date" { discard; }`, 'When the field Date is missing: discard; later rules still run.'],
  [
    `if exists ["list-id", "list-unsubscribe"] { fileinto "Lists"; stop; }`,
    'When the fields List-Id and List-Unsubscribe are both present: file into “Lists”, then stop.',
  ],
  [
    `if not exists ["from", "date", "message-id"] { fileinto "Odd"; }`,
    'When the fields From, Date and Message-ID are not all present: file into “Odd”; later rules still run.',
  ],
  [`if exists "subject" { keep; }`, 'When the subject is present: keep in the inbox; later rules still run.'],
  [
    `if size :over 5M { fileinto "Large"; }`,
    'When the message is larger than 5 MB: file into “Large”; later rules still run.',
  ],
  [`if not size :over 100K { keep; }`, 'When the message is at most 100 KB: keep in the inbox; later rules still run.'],
  [
    `if size :under 1500 { keep; }`,
    'When the message is smaller than 1,500 bytes: keep in the inbox; later rules still run.',
  ],
  [
    `if size :over 2000000 { redirect "archive@mill.example"; }`,
    'When the message is larger than 2,000,000 bytes: redirect to archive@mill.example; later rules still run.',
  ],
  [
    `if body :contains "unsubscribe" { fileinto "Newsletters"; }`,
    'When the body contains “unsubscribe”: file into “Newsletters”; later rules still run.',
  ],
  [
    `if not body :contains ["invoice", "receipt"] { keep; }`,
    'When the body contains neither “invoice” nor “receipt”: keep in the inbox; later rules still run.',
  ],
  [
    `if body :raw :contains "begin 644" { discard; }`,
    'When the raw body contains “begin 644”: discard; later rules still run.',
  ],
  [
    `if body :content "text/html" :contains "font-size" { keep; }`,
    'When a body part of type “text/html” contains “font-size”: keep in the inbox; later rules still run.',
  ],
  [
    `if not body :content "text" :contains "oak" { keep; }`,
    'When no body part of type “text” contains “oak”: keep in the inbox; later rules still run.',
  ],
  [
    `if date :value "lt" "date" "date" "2026-01-31" { discard; }`,
    'When the date in Date is before 31 January 2026: discard; later rules still run.',
  ],
  [
    `if date :originalzone "date" "hour" ["22", "23"] { fileinto "Late"; }`,
    'When the hour in Date (in the sender’s time zone) is 22 or 23: file into “Late”; later rules still run.',
  ],
  [
    `if currentdate "weekday" ["0", "6"] { fileinto "Weekend"; }`,
    'When the weekday of arrival is Sunday or Saturday: file into “Weekend”; later rules still run.',
  ],
  [
    `if currentdate :zone "+0100" "month" ["07", "08"] { vacation :days 7 "Away."; }`,
    'When the month of arrival (in time zone +01:00) is July or August: send an automatic reply; later rules still run.',
  ],
  [
    `if allof (currentdate :value "ge" "date" "2026-12-24", currentdate :value "le" "date" "2027-01-02") { vacation "Away."; }`,
    'When the date of arrival is 24 December 2026 or later, and the date of arrival is 2 January 2027 or earlier: send an automatic reply; later rules still run.',
  ],
  [
    `if currentdate :value "ge" "time" "18:00:00" { fileinto "Evening"; }`,
    'When the time of arrival is 18:00 or later: file into “Evening”; later rules still run.',
  ],
  [
    `if header :value "ge" :comparator "i;ascii-numeric" "X-Spam-Score" "5" { fileinto "Spam"; stop; }`,
    'When X-Spam-Score is at least 5: file into “Spam”, then stop.',
  ],
  [
    `if not header :value "ge" :comparator "i;ascii-numeric" "X-Spam-Score" "5" { keep; }`,
    'When X-Spam-Score is not at least 5: keep in the inbox; later rules still run.',
  ],
  [
    `if address :count "gt" :comparator "i;ascii-numeric" ["to", "cc"] "10" { fileinto "Crowds"; }`,
    'When the number of addresses in To and Cc is more than 10: file into “Crowds”; later rules still run.',
  ],
  [
    `if header :count "eq" :comparator "i;ascii-numeric" "received" "1" { keep; }`,
    'When the number of Received fields is 1: keep in the inbox; later rules still run.',
  ],
  [
    `if header :index 1 :last :contains "Received" "relay.example" { keep; }`,
    'When the last Received contains “relay.example”: keep in the inbox; later rules still run.',
  ],
  [
    `if header :index 2 :contains "Received" "relay.example" { keep; }`,
    'When the second Received contains “relay.example”: keep in the inbox; later rules still run.',
  ],
  [
    `if header :mime :anychild :param "filename" :contains "Content-Disposition" ".exe" { discard; }`,
    'When the parameter “filename” of Content-Disposition in any MIME part contains “.exe”: discard; later rules still run.',
  ],
  [
    `if header :mime :type "Content-Type" "image" { keep; }`,
    'When the top-level type in Content-Type in the outermost MIME part is “image”: keep in the inbox; later rules still run.',
  ],
  [
    `if hasflag :is "\\\\Seen" { keep; }`,
    'When a flag set by an earlier rule is seen: keep in the inbox; later rules still run.',
  ],
  [
    `if not hasflag :contains "work" { keep; }`,
    'When no flag set by an earlier rule contains “work”: keep in the inbox; later rules still run.',
  ],
  [
    `if spamtest :value "ge" :comparator "i;ascii-numeric" "5" { fileinto "Spam"; }`,
    'When the server’s spam score is at least 5: file into “Spam”; later rules still run.',
  ],
  [
    `if duplicate { discard; }`,
    'When a message with the same Message-ID arrived earlier: discard; later rules still run.',
  ],
  [
    `if duplicate :header "X-Event-Id" :seconds 7200 { discard; }`,
    'When a message with the same X-Event-Id arrived up to 2 hours earlier: discard; later rules still run.',
  ],
  [`if mailboxexists "Oak" { fileinto "Oak"; }`, 'When folder “Oak” exists: file into “Oak”; later rules still run.'],
  [
    `if specialuse_exists "\\\\Junk" { fileinto :specialuse "\\\\Junk" "Spam"; }`,
    'When a folder has the special use “Junk”: file into the folder with special use “Junk”, or into “Spam” if there is none; later rules still run.',
  ],
  [
    `if header :list "from" "friends" { keep; stop; }`,
    'When From is in the server’s list “friends”: keep in the inbox, then stop.',
  ],
  [
    `if valid_ext_list "friends" { keep; }`,
    'When the server has the list “friends”: keep in the inbox; later rules still run.',
  ],
  [`if true { keep; }`, 'For every message: keep in the inbox; later rules still run.'],
  [
    `if header :contains "from" "shop" { fileinto :copy "Shop"; redirect :copy "till@mill.example"; }`,
    'When From contains “shop”: file a copy into “Shop” and redirect a copy to till@mill.example; later rules still run.',
  ],
  [
    `if header :contains "from" "shop" { fileinto :create :flags ["\\\\Seen", "$Order"] "Shop/Orders"; stop; }`,
    'When From contains “shop”: file into “Shop/Orders”, creating it if it is missing, marked seen and “$Order”, then stop.',
  ],
  [
    `if header :contains "from" "shop" { reject "No more orders."; }`,
    'When From contains “shop”: reject; later rules still run.',
  ],
  [
    `if header :contains "from" "shop" { removeflag "\\\\Seen"; addflag ["$a", "$b"]; stop; }`,
    'When From contains “shop”: remove the flag seen and mark as “$a” and “$b”, then stop.',
  ],
  [
    `if allof (address :domain :is "from" "mill.example", not header :contains "subject" "minutes") { fileinto "Mill"; stop; }`,
    'When the domain of From is “mill.example”, unless the subject contains “minutes”: file into “Mill”, then stop.',
  ],
  [
    `if allof (address :domain :is "from" ["mill.example", "quarry.example"], header :contains "subject" ["oak", "elm"]) { fileinto "Timber"; }`,
    'When the domain of From is “mill.example” or “quarry.example”, and the subject contains “oak” or “elm”: file into “Timber”; later rules still run.',
  ],
  [
    `if anyof (header :contains "subject" "flood", address :is "from" "alerts@river.example") { addflag "\\\\Flagged"; keep; }`,
    'When the subject contains “flood” or the address in From is “alerts@river.example”: mark as flagged and keep in the inbox; later rules still run.',
  ],
  [
    `if allof (address :domain :is "from" "a.example", anyof (header :contains "subject" "oak", size :over 1M)) { fileinto "A"; }`,
    'When the domain of From is “a.example” and (the subject contains “oak” or the message is larger than 1 MB): file into “A”; later rules still run.',
  ],
  [
    `if anyof (allof (exists "list-id", size :under 10K), allof (header :is "precedence" "bulk", not exists "list-id")) { discard; }`,
    'When (the field List-Id is present and the message is smaller than 10 KB) or (Precedence is “bulk” and the field List-Id is missing): discard; later rules still run.',
  ],
  [
    `if allof (exists "list-id", not anyof (header :contains "subject" "oak", header :contains "subject" "elm")) { fileinto "L"; }`,
    'When the field List-Id is present, unless the subject contains “oak” or the subject contains “elm”: file into “L”; later rules still run.',
  ],
  [
    `if allof (exists "list-id", not allof (header :contains "subject" "oak", header :contains "from" "yard")) { fileinto "L"; }`,
    'When the field List-Id is present, unless the subject contains “oak” and From contains “yard”: file into “L”; later rules still run.',
  ],
  [
    `if not anyof (allof (exists "list-id", size :over 1M), header :is "precedence" "bulk") { keep; }`,
    'When (the field List-Id is missing or the message is at most 1 MB) and Precedence is not “bulk”: keep in the inbox; later rules still run.',
  ],
  [
    `if not allof (not exists "list-id", anyof (size :over 1M, not header :is "precedence" "bulk")) { keep; }`,
    'When the field List-Id is present or (the message is at most 1 MB and Precedence is “bulk”): keep in the inbox; later rules still run.',
  ],
  [`if header :contains "subject" "oak" { stop; }`, 'When the subject contains “oak”: stop.'],
];

test.each(SAID)('%s', (written, said) => {
  const { entries } = chainFromSieve(`require ${JSON.stringify(REQUIRED)};\n${written}`).chain;
  expect(entries.map((one) => sentenceOf(one))).toEqual([said]);
});

const FIELDS = ['X-A', 'X-B', 'X-C', 'X-D'];

const tree: fc.Arbitrary<TestTree> = fc.letrec<{ tree: TestTree }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 4, depthSize: 'large' },
    fc.constantFrom(...FIELDS).map((name): TestTree => ({ kind: 'leaf', test: { test: 'exists', headers: [name] } })),
    fc.record({
      kind: fc.constantFrom('all', 'any', 'none'),
      children: fc.array(tie('tree'), { minLength: 1, maxLength: 3 }),
    }),
  ),
})).tree;

function holds(condition: TestTree, present: ReadonlySet<string>): boolean {
  if (condition.kind === 'leaf')
    return condition.test.test === 'exists' && present.has(condition.test.headers[0] ?? '');
  const { kind, children } = condition;
  if (kind === 'all') return children.every((child) => holds(child, present));
  return children.some((child) => holds(child, present)) === (kind === 'any');
}

/** Reads the words as somebody who knows no precedence: at one level, only one conjunction is allowed. */
function read(words: string, present: ReadonlySet<string>): boolean {
  let text = words;
  const values: boolean[] = [];
  const kept = (value: boolean) => `<${values.push(value) - 1}>`;
  const level = (part: string): string => {
    const parts = part.split(/,? (and|or) |, /).filter((piece) => piece !== undefined);
    const conjunctions = new Set(parts.filter((piece) => piece === 'and' || piece === 'or'));
    expect(conjunctions.size, part).toBeLessThan(2);
    const told = parts
      .filter((piece) => piece !== 'and' && piece !== 'or')
      .map((piece) => values[Number(piece.slice(1, -1))]);
    return kept(conjunctions.has('or') ? told.some(Boolean) : told.every(Boolean));
  };
  text = text.replace(/the field (X-.) is (present|missing)/g, (_, name: string, how: string) =>
    kept(present.has(name) === (how === 'present')),
  );
  while (text.includes('(')) text = text.replace(/\(([^()]*)\)/g, (_, inner: string) => level(inner));
  return values[Number(level(text).slice(1, -1))] ?? false;
}

test('nested conditions are unambiguous, and say what they mean, for every combination of what is there', () => {
  fc.assert(
    fc.property(tree, fc.boolean(), (condition, negated) => {
      const words = treeWords(condition, negated);
      for (let mask = 0; mask < 2 ** FIELDS.length; mask++) {
        const present = new Set(FIELDS.filter((_, bit) => (mask >> bit) & 1));
        expect(read(words, present), words).toBe(holds(condition, present) !== negated);
      }
    }),
    { numRuns: 500 },
  );
});

test('a size is told exactly: it reads back as the same number', () => {
  const UNITS: Readonly<Record<string, number>> = { byte: 1, bytes: 1, KB: 1024, MB: 1024 ** 2, GB: 1024 ** 3 };
  fc.assert(
    fc.property(
      fc.oneof(
        fc.nat(),
        fc.nat(4000).map((kilobytes) => kilobytes * 1024),
      ),
      (octets) => {
        const [number = '', unit = ''] = sizeWords(octets).split(' ');
        expect(Math.round(Number(number.replaceAll(',', '')) * (UNITS[unit] ?? Number.NaN))).toBe(octets);
      },
    ),
  );
});
