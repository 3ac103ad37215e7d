import { expect, test } from 'vitest';
import { readWrittenAction, testWritten } from './as-written';
import { actionWords, leafWords } from './sentence';

/** Sentences of further tests, and of their negations (need N5). */
test.each([
  ['body :contains "oak"', 'the body contains “oak”', 'the body does not contain “oak”'],
  ['body :raw :contains "oak"', 'the raw body contains “oak”', 'the raw body does not contain “oak”'],
  [
    'header :regex "subject" "^oak"',
    'the subject matches the regular expression “^oak”',
    'the subject does not match the regular expression “^oak”',
  ],
  [
    'header :value "ge" :comparator "i;ascii-numeric" "X-Spam-Score" "5"',
    'X-Spam-Score is at least 5',
    'X-Spam-Score is not at least 5',
  ],
  [
    'address :count "gt" :comparator "i;ascii-numeric" ["to", "cc"] "10"',
    'the number of addresses in To and Cc is more than 10',
    'the number of addresses in To and Cc is not more than 10',
  ],
  ['header :index 1 :last :contains "Received" "x"', 'the last Received contains “x”', null],
  ['address :user "to" "ann"', 'a local part before “+” in To is “ann”', null],
  [
    'header :mime :anychild :param "filename" :contains "Content-Disposition" ".exe"',
    'the parameter “filename” of Content-Disposition in any MIME part contains “.exe”',
    null,
  ],
  [
    'date :value "lt" :originalzone "date" "date" "2026-01-31"',
    'the date in Date (in the sender’s time zone) is before 31 January 2026',
    null,
  ],
  ['currentdate "weekday" ["0", "6"]', 'the weekday of arrival is Sunday or Saturday', null],
  ['currentdate :zone "+0100" "month" "07"', 'the month of arrival (in time zone +01:00) is July', null],
  ['spamtest :value "ge" :comparator "i;ascii-numeric" "5"', 'the server’s spam score is at least 5', null],
  [
    'duplicate',
    'a message with the same Message-ID arrived earlier',
    'no message with the same Message-ID arrived earlier',
  ],
  ['duplicate :header "X-Event" :seconds 7200', 'a message with the same X-Event arrived up to 2 hours earlier', null],
  ['mailboxexists "Oak"', 'folder “Oak” exists', 'folder “Oak” does not exist'],
  ['ihave ["fileinto", "date"]', 'the server supports “fileinto” and “date”', null],
])('%s: %s', (text, said, negated) => {
  const leaf = testWritten(text);
  expect(leafWords(leaf)).toBe(said);
  if (negated !== null) expect(leafWords(leaf, true)).toBe(negated);
});

test.each([
  ['vacation :days 3 "away";', 'send an automatic reply'],
  ['reject "no";', 'reject'],
  [
    'fileinto :specialuse "\\\\Junk" "Spam";',
    'file into the folder with special use “Junk”, or into “Spam” if there is none',
  ],
  ['redirect :copy :list "all";', 'redirect a copy to the server’s list “all”'],
])('%s: %s', (text, said) => {
  const reading = readWrittenAction(text);
  expect(reading.ok && actionWords(reading.said)).toBe(said);
});
