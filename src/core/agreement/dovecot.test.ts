import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import { check } from '../sieve/check';
import { parse } from '../sieve/parse';
import { elementAt } from '../text/lookup';
import { list, some } from './arbitrary';
import { Dovecot, ourOutcome, prepared, runOurs } from './dovecot';
import {
  body,
  comparator,
  counted,
  date,
  editing,
  flags,
  given,
  indexed,
  loops,
  match,
  message,
  mime,
  plain,
  regex,
  scriptOf,
  variables,
} from './dovecot-arbitrary';

/**
 * Our interpreter against the one of Debian's dovecot-sieve, an independent implementation of the language with most of its
 * extensions, message by message. Left out, since it departs there and the standard decides for us:
 *
 * - patterns with `?` beside `*`, which it does not match (RFC 5228 section 2.7.1)
 * - sizes near the limit, since it counts a line end of the store as one octet (section 5.9)
 * - `:value` by i;ascii-casemap of what lies between upper and lower case in US-ASCII, such as `[` (RFC 4790 section 9.2)
 * - a filing with `:copy` and a later one without it into the same folder, which keeps the message in the inbox too
 * - blanks that are encoded at the beginning of a field, which are ignored like any others (section 5.7)
 * - `:index` with several field names, which it counts together (RFC 5260 section 6)
 * - `:param` of a parameter that is not there, which it takes for an empty one (RFC 5703 section 4.2)
 * - the null reverse-path, with which it cannot be tested
 * - `string` without a comparator, which it compares by i;octet (RFC 5229 section 5)
 * - patterns in flag tests that stand beside others in one string
 * - malformed addresses and raw octets beyond UTF-8 in header fields
 * - the text of HTML, of which it leaves out quotations and keeps the line ends of the source
 * - expressions that variables make wrong, which it takes for a test that does not hold
 *
 * `TIMES=5` makes as many times the scripts.
 */
const TIMES = Number(process.env.TIMES ?? 1);
const SEED = Number(process.env.SEED ?? 5228);

const MESSAGES = 60;
const messages = fc
  .sample(message, { seed: SEED, numRuns: MESSAGES })
  .map((text, at) => Buffer.from(`Message-ID: <${at}@x.example>\n${text}`.replace(/\n/g, '\r\n')));
const dovecot = new Dovecot(messages);
afterAll(() => dovecot.close());

/** Patterns with `?` beside `*`. */
const isLeftOut = (source: string): boolean =>
  /[*]/.test(source) && /"[^"]*\?[^"]*\*|"[^"]*\*[^"]*\?[^"]*"/.test(source);

const FAMILIES: readonly (readonly [name: string, scripts: fc.Arbitrary<string>, count: number])[] = [
  ['the core with copy and subaddress', scriptOf(['subaddress'], plain), 90],
  [
    'relational and index',
    scriptOf(['subaddress', 'relational', 'comparator-i;ascii-numeric', 'index'], fc.oneof(counted, indexed, plain)),
    50,
  ],
  ['regex', scriptOf(['subaddress', 'regex'], fc.oneof(regex, regex, plain)), 30],
  ['body', scriptOf(['body'], body), 40],
  ['date', scriptOf(['date', 'relational'], date), 50],
  ['mime', scriptOf(['mime'], mime), 25],
  ['imap4flags', flags, 40],
  ['variables', variables, 40],
  ['editheader', editing, 30],
  ['loops over parts', loops, 15],
];

describe('our interpreter and the one of dovecot-sieve do the same with', () => {
  let runs = 0;
  test.each(FAMILIES)('%s', { timeout: 600_000 }, (_name, scripts, count) => {
    const outcomes = new Set<string>();
    for (const source of fc.sample(scripts, { seed: SEED, numRuns: count * TIMES })) {
      if (isLeftOut(source)) continue;
      const theirs = dovecot.filter(source);
      runOurs(source, messages).forEach((ours, at) => {
        const text = messages[at]?.toString() ?? '';
        if (/\bbody\b(?!.*:(raw|content))/.test(source) && text.includes('text/html')) return;
        expect({ source, text, outcome: ours }).toEqual({ source, text, outcome: theirs[at] });
        outcomes.add(ours ?? 'an error');
        runs++;
      });
    }
    expect(outcomes.size).toBeGreaterThan(3);
  });

  test('in all, 20,000 message runs and more', () => expect(runs).toBeGreaterThanOrEqual(20_000));

  test('envelopes', { timeout: 600_000 }, () => {
    const test_ = fc
      .tuple(
        comparator,
        fc.constantFrom('', ':all', ':localpart', ':domain', ':user', ':detail'),
        match,
        some(['from', 'to']),
        some(['ann', 'ann@mill.example', 'MILL.example', 'orders', 'a*', '*.example', '', 'me+x@home.example']),
      )
      .map(([how, part, type, parts, keys]) => given('envelope', how, part, type, list(parts), list(keys)));
    for (const [at, source] of fc
      .sample(scriptOf(['envelope', 'subaddress'], test_), { seed: SEED, numRuns: 60 * TIMES })
      .entries()) {
      const index = at % MESSAGES;
      for (const [from, to] of [
        ['ann@mill.example', 'me+x@home.example'],
        ['orders@oak.example', 'orders+@home.example'],
        ['a.b+orders@sub.mill.example', 'me@home.example'],
      ] as const) {
        const outcome = ourOutcome(prepared(source), elementAt(messages, index), { from, to });
        expect({ source, from, to, outcome }).toEqual({
          source,
          from,
          to,
          outcome: dovecot.test(source, index, from, to),
        });
      }
    }
  });
});

describe('what one refuses, the other refuses', () => {
  test.each([
    'keep',
    'if header "a" [] { keep; }',
    'require "variables"; set "foo.bar" "x";',
    'require "variables"; keep; set "global.x" "y";',
    'require ["variables", "fileinto"]; fileinto "${foo.bar}";',
    'require ["variables", "fileinto"]; fileinto "${global.x}";',
    'require "reject"; reject "a"; keep; reject "b";',
    'if true { keep; } elsif { keep; }',
    'else { keep; }',
    'require "fileinto"; fileinto "";',
    'redirect "nobody";',
    'require "regex"; if header :regex "subject" "(" { keep; }',
    'if header :contains :is "subject" "x" { keep; }',
    'if size 5 { keep; }',
    'require "vacation"; vacation "a"; vacation "b";',
    'keep; require "fileinto";',
    'if not (true) { keep; }',
    'if header :comparator "i;none" "a" "b" { keep; }',
  ])('%s', (source) => {
    const { script, diagnostics } = parse(source);
    const ours = [...diagnostics, ...check(script)];
    const theirs = dovecot.compile(source);
    // Errors that are certain at run time are reported before by ours.
    if (/vacation|reject|fileinto "/.test(source)) expect(ours.length).toBeGreaterThan(0);
    else expect([ours.length > 0, theirs !== null]).toEqual([true, true]);
  });
});
