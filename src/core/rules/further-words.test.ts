import { expect, test } from 'vitest';
import { readWrittenAction, testWritten } from './as-written';
import { actionWords, leafWords } from './sentence';

/** How further tests are said, and their negations (need N5). */
test.each([
  ['body :contains "oak"', 'the text contains “oak”', 'the text does not contain “oak”'],
  [
    'body :raw :contains "oak"',
    'the text as it was sent contains “oak”',
    'the text as it was sent does not contain “oak”',
  ],
  [
    'header :regex "subject" "^oak"',
    'the subject fits the pattern “^oak”',
    'the subject does not fit the pattern “^oak”',
  ],
  [
    'header :value "ge" :comparator "i;ascii-numeric" "X-Spam-Score" "5"',
    'the header X-Spam-Score is at least 5',
    'the header X-Spam-Score is not at least 5',
  ],
  [
    'address :count "gt" :comparator "i;ascii-numeric" ["to", "cc"] "10"',
    'the number of addresses in To and in Cc is more than 10',
    'the number of addresses in To and in Cc is not more than 10',
  ],
  ['header :index 1 :last :contains "Received" "x"', 'the last of the header Received contains “x”', null],
  ['address :user "to" "ann"', 'the local part before the plus sign in To is “ann”', null],
  [
    'header :mime :anychild :param "filename" :contains "Content-Disposition" ".exe"',
    'the parameter “filename” of the header Content-Disposition of any part contains “.exe”',
    null,
  ],
  [
    'date :value "lt" :originalzone "date" "date" "2026-01-31"',
    'the day in date, as the sender wrote it, is before 2026-01-31',
    null,
  ],
  ['currentdate "weekday" ["0", "6"]', 'the weekday on arrival is Sunday or Saturday', null],
  ['currentdate :zone "+0100" "month" "07"', 'the month on arrival, in the time zone +0100, is July', null],
  ['spamtest :value "ge" :comparator "i;ascii-numeric" "5"', 'the server’s spam score is at least 5', null],
  [
    'duplicate',
    'a message with the same Message-ID has come before',
    'no message with the same Message-ID has come before',
  ],
  ['duplicate :header "X-Event" :seconds 7200', 'a message with the same X-Event has come before within 2 hours', null],
  ['mailboxexists "Oak"', 'the folder “Oak” exists', 'the folder “Oak” does not exist'],
  ['ihave ["fileinto", "date"]', 'the server knows “fileinto” and “date”', null],
])('%s: %s', (text, said, negated) => {
  const leaf = testWritten(text);
  expect(leafWords(leaf)).toBe(said);
  if (negated !== null) expect(leafWords(leaf, true)).toBe(negated);
});

test.each([
  ['vacation :days 3 "away";', 'reply automatically'],
  ['reject "no";', 'refuse'],
  [
    'fileinto :specialuse "\\\\Junk" "Spam";',
    'file into the folder used as “\\Junk”, or into “Spam” where no folder is',
  ],
  ['redirect :copy :list "all";', 'send a copy to the server’s list “all”'],
])('%s: %s', (text, said) => {
  const reading = readWrittenAction(text);
  expect(reading.ok && actionWords(reading.said)).toBe(said);
});
