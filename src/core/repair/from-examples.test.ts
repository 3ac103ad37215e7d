import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { MailGatherer, valued } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain, Rule } from '../rules/rule';
import { askingChain } from './expectations';
import { proposalsFor, ranked } from './from-examples';
import { learnedFrom } from './learned';
import { byException, byLessTests, simplified } from './simplify';

const OWN = ['me@mill.example'];

/** Messages as [from, subject, folder, other fields]. */
function mailOf(letters: readonly (readonly [from: string, subject: string, folder?: string, fields?: string])[]) {
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  letters.forEach(([from, subject, folder = 'INBOX', fields = ''], n) => {
    const text = `From: ${from}\nTo: me@mill.example\nSubject: ${subject}\nMessage-ID: <${n}@x.example>\n${fields}\n\nwords\n`;
    const message = readMessage(new TextEncoder().encode(text));
    gatherer.add({ message, folder, flags: [] });
    columns.add(message, envelopeOf(message, OWN[0] ?? null));
  });
  const flow = (chain: Chain) => runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
  return { valued: valued(gatherer.mail(OWN)), flow };
}

function proposed(letters: Parameters<typeof mailOf>[0], chosen: readonly number[]): string[] {
  const { valued, flow } = mailOf(letters);
  const proposals = proposalsFor(
    chosen.map((number) => valued.message(number)),
    valued,
  );
  const caught = flow(askingChain(proposals)).entries.map(({ held }) => held);
  const weighed = ranked(proposals, caught, Bitmap.of(letters.length, chosen), valued.sent);
  return weighed.map(({ words, ofChosen, others }) => `${words}: ${ofChosen}, ${others}`);
}

describe('what messages have in common', () => {
  test('their sender, both ways, their subject and their domains', () => {
    const letters = [
      ['Ann <ann@oak.example>', 'Oak beams 12', 'INBOX'],
      ['Ann <ann@oak.example>', 'Re: oak beams 14', 'INBOX'],
      ['Bob <bob@yard.oak.example>', 'lunch', 'INBOX'],
      ['me@mill.example', 'Oak beams', 'Sent'],
    ] as const;
    expect(proposed(letters, [0, 1])).toEqual([
      'from ann@oak.example: 2, 0',
      'from or to ann@oak.example: 2, 0',
      'with “Oak beams” in the subject: 2, 0',
      'from any address at oak.example: 2, 0',
      'from any address at oak.example and its subdomains: 2, 1',
      'from ann@oak.example, with “Oak beams” in the subject: 2, 0',
    ]);
  });
  test('their list comes first, and numbers in their subjects are open', () => {
    const list = 'List-Id: Mill <mill.lists.example>';
    const letters = [
      ['a@x.example', 'Order 17 is sent', 'INBOX', list],
      ['b@y.example', 'Order 99 is sent', 'INBOX', list],
    ] as const;
    const found = proposed(letters, [0, 1]);
    expect(found[0]).toBe('of the list mill.lists.example: 2, 0');
    expect(found).toContain('with a subject like “Order * is sent”: 2, 0');
  });
  test('your own address with a detail', () => {
    const { valued } = mailOf([['shop@x.example', 'hello', 'INBOX', 'Cc: me+shop@mill.example']]);
    expect(proposalsFor([valued.message(0)], valued).map(({ words }) => words)).toContain('to me+shop@mill.example');
  });
  test('subdomains of what the sender registered, never of a public suffix', () => {
    const words = (sender: string) => {
      const { valued } = mailOf([[sender, 'hello', 'INBOX']]);
      return proposalsFor([valued.message(0)], valued).map((proposal) => proposal.words);
    };
    expect(words('ann@news.shop.co.uk')).toContain('from any address at shop.co.uk and its subdomains');
    expect(words('ann@shop.com.au')).toContain('from any address at shop.com.au and its subdomains');
    expect(words('ann@co.uk').join()).not.toContain('at uk');
  });
  test('nothing, where a message says nothing of itself', () => {
    const { valued } = mailOf([['', '', 'INBOX']]);
    expect(proposalsFor([valued.message(0)], valued)).toEqual([]);
  });
});

const ruleFrom = (script: string): Rule => ruleAt(chainFromSieve(`require ["fileinto"];\n${script}`).chain.entries, 0);

describe('a rule that was widened', () => {
  test('loses the addresses that its domain covers, which is proved', () => {
    const wide = ruleFrom(
      '# A\nif anyof (address :is "from" ["a@x.example", "b@y.example"], address :domain :is "from" "x.example") { fileinto "A"; }',
    );
    const { rule, dropped } = simplified(wide);
    expect(dropped).toEqual(['the key “a@x.example”']);
    expect(JSON.stringify(rule.tests)).not.toContain('a@x.example');
    expect(simplified(rule)).toEqual({ rule, dropped: [], assumes: [] });
  });
  test('keeps what adds anything, and a branch of one becomes that one', () => {
    const wide = ruleFrom(
      '# A\nif anyof (header :contains "subject" ["oak", "oak beam"], header :is "subject" "oaks") { keep; }',
    );
    const { rule, dropped } = simplified(wide);
    expect(dropped).toHaveLength(2);
    expect(rule.tests).toMatchObject({ kind: 'leaf', test: { keys: ['oak'] } });
  });
});

test('a rule is narrowed by exceptions, or by less of its tests', () => {
  const rule = ruleFrom('# A\nif header :contains "subject" ["oak", "ash"] { fileinto "A"; }');
  const tests = ruleFrom('# B\nif header :is "subject" "x" { keep; }').tests;
  expect(byException(rule, [{ words: 'such', tests }])).toEqual([
    { words: 'exempt mail such', rule: { ...rule, unless: [tests] } },
  ]);
  expect(byLessTests(rule).map(({ words }) => words)).toEqual(['remove the key “oak”', 'remove the key “ash”']);
});

test('the own filing suggests rules where no rule puts such mail, and not what the inbox holds', () => {
  const letters = [
    ...Array.from({ length: 5 }, () => ['a@oak.example', 'beam', 'Oak'] as const),
    ...Array.from({ length: 5 }, () => ['a@lime.example', 'lime', 'Lime'] as const),
    ['a@oak.example', 'lunch'] as const,
    ...Array.from({ length: 6 }, () => ['b@x.example', 'news'] as const),
    ...Array.from({ length: 3 }, () => ['me@mill.example', 'mine', 'Oak'] as const),
  ];
  const { valued, flow } = mailOf(letters);
  const { chain } = chainFromSieve(
    'require "fileinto";\n# Lime\nif address :is "from" "a@lime.example" { fileinto "Lime"; }',
  );
  // One of six is not there.
  expect(learnedFrom(valued, flow(chain))).toEqual([]);
  const more = mailOf([...letters, ...Array.from({ length: 5 }, () => ['a@oak.example', 'beam', 'Oak'] as const)]);
  expect(learnedFrom(more.valued, more.flow(chain))).toMatchObject([
    { folder: 'Oak', words: 'from oak.example', there: 10, lying: 10, caught: 11, right: 10 },
  ]);
});
