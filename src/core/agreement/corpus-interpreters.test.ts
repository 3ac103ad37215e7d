import { expect, test } from 'vitest';
import { fieldsNamed, type MailMessage, partsOf, readMessage } from '../mail/message';
import { walkParts } from '../mail/parts';
import { elementAt } from '../text/lookup';
import { corpus, hasOctets, headerText, isPlainAddressList, numbered, rawOf } from './corpus';
import { Dovecot, runOurs } from './dovecot';
import { Mailutils, runOurs as runOursInItsWords } from './mailutils';

/** Real mail on two independent interpreters. Any difference that is not explained by their known deviations fails. */

const MAIL = corpus();
const READ: readonly MailMessage[] = MAIL.map(readMessage);

test('an independent interpreter says the same of it (dovecot-sieve)', { timeout: 600_000 }, () => {
  const letters = numbered(MAIL);
  const dovecot = new Dovecot(letters);
  const tests: readonly (readonly [test: string, explained: (raw: Buffer, message: MailMessage) => boolean])[] = [
    ...[
      'header :contains "subject" "re:"',
      'header :is "subject" ""',
      'header :matches "subject" "*[*]*"',
      'header :contains "from" "@"',
      'header :contains "received" "esmtp"',
      'header :matches "subject" "*  *"',
      'header :contains "subject" "?"',
      'header :index 1 :contains "received" "localhost"',
      'header :last :index 1 :contains "received" "smtp"',
      'header :count "ge" :comparator "i;ascii-numeric" "received" "5"',
      'header :value "ge" :comparator "i;ascii-numeric" "x-priority" "3"',
      'header :regex "from" "<(.*)@.*>"',
      'header :regex "subject" "[[:digit:]]{2,}"',
      'exists "list-id"',
      'exists ["to", "cc"]',
      'exists "x-mailer"',
    ].map((one) => [one, (raw: Buffer, _: MailMessage) => hasOctets(raw, '(subject|from)')] as const),
    ...[
      'address :domain :is "from" "xent.com"',
      'address :all :contains "to" "spam"',
      'address :localpart :is "from" "fork"',
      'address :contains ["to", "cc"] "linux"',
      'address :all :matches "from" "*@*.*"',
      'address :domain :matches ["to", "cc"] "*.org"',
      'address :count "ge" :comparator "i;ascii-numeric" ["to", "cc"] "2"',
      'address :user :contains "to" "a"',
    ].map(
      (one) =>
        [
          one,
          (raw: Buffer, message: MailMessage) =>
            ['from', 'to', 'cc', 'sender', 'reply-to'].some((name) => {
              const written = rawOf(message, name);
              return fieldsNamed(message, name).length > 0 && (hasOctets(raw, name) || !isPlainAddressList(written));
            }),
        ] as const,
    ),
    ...[
      'date :value "ge" "date" "date" "2002-09-01"',
      'date :zone "+0000" "date" "weekday" "0"',
      'date :originalzone :matches "date" "zone" "-*"',
      'date :index 1 "received" "month" "09"',
    ].map((one) => [one, () => false] as const),
    ...[
      'body :content "text/plain" :contains "http"',
      'body :content "text" :contains "the"',
      'body :raw :contains "html"',
    ].map((one) => [one, (_: Buffer, message: MailMessage) => !hasSoundTypes(message)] as const),
    ...[
      'header :mime :anychild :contains "content-type" "text/html"',
      'header :mime :subtype "content-type" "html"',
    ].map((one) => [one, (_: Buffer, message: MailMessage) => !hasSoundTypes(message)] as const),
  ];
  const source = `require ["imap4flags", "body", "date", "relational", "comparator-i;ascii-numeric", "subaddress", "regex", "index", "mime"];\n${tests
    .map(([one], at) => `if ${one} { addflag "t${at}"; }`)
    .join('\n')}\n`;
  const theirs = dovecot.filter(source);
  dovecot.close();
  const differences: string[] = [];
  let explainedAway = 0;
  runOurs(source, letters).forEach((ours, at) => {
    const [mine, other] = [ours, theirs[at]].map((outcome) => new Set((outcome ?? 'error').match(/\bt\d+\b/g)));
    tests.forEach(([one, explained], index) => {
      if (mine?.has(`t${index}`) === other?.has(`t${index}`)) return;
      if (explained(elementAt(MAIL, at), elementAt(READ, at))) explainedAway++;
      else differences.push(`message ${at}: ${one}`);
    });
  });
  expect(differences).toEqual([]);
  expect(explainedAway).toBeLessThan(400);
});

/** Whether all parts have a type by RFC 2045 and a header, which the other interpreter needs to read on. */
const hasSoundTypes = (message: MailMessage): boolean =>
  fieldsNamed(message, 'mime-version').length > 0 &&
  [...walkParts(partsOf(message))].every(
    ({ fields }) =>
      fields.length > 0 &&
      fields.every(({ name, value }) => !/^content-type$/i.test(name) || /^[\w-]+\/[\w.+-]+\s*(;|$)/.test(value)),
  );

test('an independent interpreter of the core language says the same of it (mailutils)', { timeout: 600_000 }, () => {
  // As text of US-ASCII: for both, other octets are characters of their own.
  const letters = MAIL.map((raw) => raw.toString('latin1'));
  const header = (name: string) => (at: number) => headerText(elementAt(MAIL, at), name);
  const [subject, from, received, type] = ['subject', 'from', 'received', 'content-type'].map(header);
  // Encoded words are compared decoded (RFC 5228 section 2.7.2); it misses adjacent and unusually spelled ones.
  const encoded =
    (field = subject) =>
    (at: number) =>
      (field?.(at) ?? '').includes('=?');
  // Spaces at a fold keep their number (RFC 5322 section 2.2.3); it reads one, and keeps trailing spaces.
  const folded = (at: number) => /\n[ \t]|[ \t]$/.test(subject?.(at) ?? '');
  const near = (limit: number) => (at: number) => {
    const raw = Buffer.from(letters[at] ?? '');
    const lines = raw.filter((octet) => octet === 10).length;
    // It counts LF as one octet, and takes the line ends at the end of the message for the mailbox's own.
    return raw.length - 4 <= limit && raw.length + lines + 2 >= limit;
  };
  const never = () => false;
  const tests: readonly (readonly [test: string, explained: (at: number) => boolean])[] = [
    ['header :contains "subject" "re:"', encoded()],
    ['header :is "subject" ""', never],
    ['header :matches "subject" "*  *"', folded],
    ['header :contains "subject" "?"', encoded()],
    ['header :contains "from" "@"', encoded(from)],
    ['header :contains "received" "esmtp"', encoded(received)],
    ['header :contains "content-type" "html"', encoded(type)],
    ['header :count "ge" :comparator "i;ascii-numeric" "received" "5"', never],
    ['exists "list-id"', never],
    ['exists ["to", "cc"]', never],
    ['exists "x-mailer"', never],
    ['size :over 5000', near(5000)],
    ['size :under 2500', near(2500)],
    ['address :domain :is "from" "xent.com"', never],
    ['address :localpart :is "from" "fork"', never],
    ['address :all :matches "from" "*@*.*"', never],
    ['address :all :contains "to" "spam"', never],
    ['address :contains ["to", "cc"] "linux"', never],
    ['address :domain :matches ["to", "cc"] "*.org"', never],
  ];
  // A malformed address ends its run, so that the address tests, which come last, report nothing after it; of repeated
  // fields it reads the first (any counts: RFC 5228 section 5.1).
  const malformed = READ.map((message) =>
    ['from', 'to', 'cc'].some((name) => {
      const fields = fieldsNamed(message, name);
      return fields.length > 1 || (fields.length > 0 && !isPlainAddressList(rawOf(message, name)));
    }),
  );
  const source = `require ["fileinto", "relational", "comparator-i;ascii-numeric"];\n${tests
    .map(([one], at) => `if ${one} { fileinto "t${at}"; }`)
    .join('\n')}\n`;
  const mailutils = new Mailutils(letters);
  const theirs = mailutils.run(source);
  mailutils.close();
  const held = tests.map(() => 0);
  const differences: string[] = [];
  let explainedAway = 0;
  runOursInItsWords(source, letters).forEach((ours, at) => {
    const [mine, other] = [ours, theirs[at] ?? ''].map((outcome) => new Set(outcome.match(/\bt\d+\b/g)));
    tests.forEach(([one, explained], index) => {
      if (mine?.has(`t${index}`)) held[index] = (held[index] ?? 0) + 1;
      if (mine?.has(`t${index}`) === other?.has(`t${index}`)) return;
      if (explained(at) || (one.startsWith('address') && malformed[at])) explainedAway++;
      else differences.push(`message ${at}: ${one}`);
    });
  });
  expect(differences).toEqual([]);
  expect(Math.min(...held)).toBeGreaterThan(0);
  expect(explainedAway).toBeLessThan(350);
});
