import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { traceMessage } from '../flow/trace';
import { envelopeOf, readMessage } from '../mail/message';
import { compareChains } from '../reason/equivalence';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { fateKey } from '../sieve/interpret/fate';

/** Cases in which engines, traces and proofs once disagreed about a message. */

const chainOf = (source: string): Chain => {
  const { chain, diagnostics } = chainFromSieve(source);
  expect(diagnostics).toEqual([]);
  return chain;
};

/** The fate of a message by the flow engine, as lists show it, and by a trace, as its page shows it. */
function both(source: string, text: string): readonly [string, string] {
  const chain = chainOf(source);
  const message = readMessage(new TextEncoder().encode(text));
  const envelope = envelopeOf(message, 'me@mill.example');
  const columns = new MemoryColumns();
  columns.add(message, envelope);
  const flow = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), 1);
  return [fateKey(flow.fates.fateOf(0)), fateKey(traceMessage(chain, message, envelope).fate)];
}

const LETTER =
  'From: a@x.example\nTo: me@mill.example\nReturn-Path: <a@x.example>\nSubject: oak beams\nX-Tag: lime bags\n\nwords\n';

describe('the list and the page of a message say the same', () => {
  test.each([
    [
      'tests stop at the first that decides (RFC 5229 section 3.2)',
      'require ["variables", "fileinto"];\nif anyof (header :matches "subject" "* *", header :matches "x-tag" "* *") { fileinto "${1}"; }',
      'oak',
    ],
    [
      'nor are those run that come behind one that does not hold',
      'require ["variables", "fileinto"];\nif not allof (header :contains "subject" "lime", header :matches "x-tag" "* *") { fileinto "[${1}]"; }',
      '[]',
    ],
    [
      'a refusal beside a vacation reply is an error (RFC 5230 section 4.7)',
      'require ["reject", "vacation"];\nif true { reject "no"; }\nif true { vacation :addresses "me@mill.example" "away"; }',
      'INBOX',
    ],
    [
      'two refusals are an error (RFC 5429 section 2)',
      'require "reject";\nif true { reject "no"; }\nif exists "subject" { reject "no"; }',
      'INBOX',
    ],
  ])('%s', (_what, source, folder) => {
    const [list, page] = both(source, LETTER);
    expect(list).toBe(page);
    expect(list).toContain(JSON.stringify(folder));
  });
});

describe('fates differ by their words', () => {
  test.each([
    [
      'reasons of a refusal',
      'require "reject";\nif exists "x-a" { reject "no"; }',
      'require "reject";\nif exists "x-a" { reject "never"; }',
    ],
    [
      'ways to refuse',
      'require "reject";\nif exists "x-a" { reject "no"; }',
      'require "ereject";\nif exists "x-a" { ereject "no"; }',
    ],
    [
      'vacation texts',
      'require "vacation";\nif exists "x-a" { vacation :addresses "me@home.example" "away"; }',
      'require "vacation";\nif exists "x-a" { vacation :addresses "me@home.example" "gone"; }',
    ],
    [
      'notification texts',
      'require "enotify";\nif exists "x-a" { notify :message "a" "mailto:b@x.example"; }',
      'require "enotify";\nif exists "x-a" { notify :message "c" "mailto:b@x.example"; }',
    ],
  ])('%s', (what, first, second) => {
    const verdict = compareChains(chainOf(first), chainOf(second)).verdict;
    // The recipient of a reply depends on more of the message than example messages vary.
    expect(what === 'vacation texts' ? ['different', 'undecided'] : ['different']).toContain(verdict);
    expect(compareChains(chainOf(first), chainOf(first)).verdict).toBe('equivalent');
  });
});
