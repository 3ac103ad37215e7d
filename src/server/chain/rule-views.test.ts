import { beforeEach, describe, expect, test } from 'vitest';
import { addFile, audit, FROM, fill, goTo, id, job, simulated, store, withAudit, work } from '../../../test/harness';
import { rewriting } from '../../core/rules/edit';
import { createAudit, setOwnAddresses } from '../audits/audits';
import { makeChange } from '../changes/changes';
import { maybeExamples, maybeLearned, maybeWidening } from '../changes/examples-view';
import { keepExpectation } from '../changes/expectations';
import { expectationsView } from '../changes/expectations-view';
import { maybePair, overlapMapView } from '../findings/overlaps-view';
import { perform } from '../jobs/perform';
import { ruleMailView } from './flows-view';
import { listsView } from './lists-view';
import { maybeRuleDesk } from './rule-view';

/** The data of the pages for rules, lists, examples and expectations. */

withAudit();

const RULES = `require ["fileinto"];
# Oak
if address :is "from" "tom@oak.example" { fileinto "Oak"; stop; }
# Floods
if header :contains "subject" ["flood", "weir"] { fileinto "Floods"; stop; }
# Letters
if header :contains "subject" "letter" { fileinto "Letters"; }
`;

const letter = (from: string, subject: string, more = '') =>
  `${FROM}\nFrom: ${from}\nTo: me@mill.example\n${more}Subject: ${subject}\n\nwords\n\n`;
const INBOX = [
  letter('Tom Fenn <tom@oak.example>', 'flood boards'),
  letter('Ida Fenn <ida@oak.example>', 'flood boards'),
  letter('Ida Fenn <ida@oak.example>', 'bill for boards'),
  letter('Weir <w@weir.example>', 'weir letter'),
  letter('Ann <ann@x.example>', 'hello', 'List-Id: <guild.lists.example>\n'),
].join('');
const OAK = [letter('Ida Fenn <ida@oak.example>', 'plank'), letter('Tom Fenn <tom@oak.example>', 'plank')].join('');

beforeEach(async () => {
  await addFile('rules.sieve', RULES);
  await addFile('INBOX.mbox', INBOX);
  await addFile('Oak.mbox', OAK);
  await work();
  setOwnAddresses(store, id, ['me@mill.example']);
  await simulated();
});

describe('chosen messages', () => {
  test('what they have in common, how it catches them and others, and where they lie', () => {
    // Ida’s two messages in the inbox have in common: Ida, her domain, and “boards”.
    const view = maybeExamples(store, id, [1, 2, 2, 99]);
    expect(view?.chosen.map(({ number }) => number)).toEqual([1, 2]);
    expect(view?.folder).toBeNull();
    const counts = new Map(view?.proposals.map(({ words, ofChosen, others }) => [words, [ofChosen, others]]));
    expect(counts.get('from ida@oak.example')).toEqual([2, 1]);
    expect(counts.get('from any address at oak.example')).toEqual([2, 3]);
    expect(counts.get('with “boards” in the subject')).toEqual([2, 1]);
    // Messages in a folder of their own could be filed there by a new rule.
    expect(maybeExamples(store, id, [5])?.folder).toBe('Oak');
    expect(maybeExamples(store, id, [])).toMatchObject({ chosen: [], proposals: [], acting: [], widenable: [] });
  });

  test('rules that could catch them: those that file where they lie, and those about their like', () => {
    expect(maybeExamples(store, id, [5])?.widenable).toEqual([
      {
        id: 'r1',
        name: 'Oak',
        why: 'it files into “Oak”, where these messages are; it acts on 2 others from the same domains or lists',
        ends: null,
      },
      { id: 'r2', name: 'Floods', why: 'it acts on 1 other from the same domains or lists', ends: null },
    ]);
    const { draft } = audit();
    const [, floods] = draft.entries;
    if (floods?.kind !== 'rule') throw new Error('no rule');
    makeChange(store, id, [rewriting(1, [floods], [{ ...floods, actions: [{ action: 'discard' }] }])], '');
    expect(maybeExamples(store, id, [5])?.widenable[1]).toMatchObject({ id: 'r2', ends: 'discards' });
  });

  test('rules that act on them, and ways to spare them with what else these spare', () => {
    const acting = maybeExamples(store, id, [1])?.acting ?? [];
    expect(acting.map(({ name, acts }) => [name, acts])).toEqual([['Floods', 1]]);
    const ways = acting[0]?.ways ?? [];
    expect(ways.map(({ words, others, othersOf }) => [words, others, othersOf])).toContainEqual([
      'remove the key “flood”',
      0,
      1,
    ]);
    const [exempt] = ways.filter(({ words }) => words === 'exempt mail from ida@oak.example');
    expect(exempt).toMatchObject({ ofChosen: 1, others: 0 });
    makeChange(store, id, exempt?.edits ?? [], '');
    expect(audit().draft.entries[1]).toMatchObject({ unless: [{ kind: 'leaf' }] });
  });

  test('a rule is widened, and loses what that has made superfluous', () => {
    const proposal = maybeExamples(store, id, [5])?.proposals.find(({ words }) => /any address at/.test(words));
    const widening = proposal && maybeWidening(store, id, 'r1', proposal.tests);
    expect(widening?.dropped).toHaveLength(1);
    makeChange(store, id, widening?.edits ?? [], '');
    expect(JSON.stringify(audit().draft.entries[0])).not.toContain('tom@');
    expect(maybeWidening(store, id, 'r9', { kind: 'all', children: [] })).toBeNull();
  });

  test('nothing is said while the chain is not simulated', async () => {
    goTo(createAudit(store, 'bare'));
    await addFile('rules.sieve', RULES);
    await addFile('INBOX.mbox', INBOX);
    await work();
    expect([maybeExamples(store, id, [0]), maybeLearned(store, id)]).toEqual([null, null]);
  });
});

describe('the desk of one rule', () => {
  test('a new one, one behind another, one that is there, and none', () => {
    expect(maybeRuleDesk(store, id, { rule: null, behind: null })).toMatchObject({
      changes: null,
      before: null,
      mayLink: false,
      rule: { name: '', on: true, actions: [], ending: 'stop', link: 'always' },
    });
    expect(maybeRuleDesk(store, id, { rule: null, behind: 'r2' })).toMatchObject({ before: 'Floods', mayLink: true });
    expect(maybeRuleDesk(store, id, { rule: 'r1', behind: null })).toMatchObject({ changes: 'r1', before: null });
    expect(maybeRuleDesk(store, id, { rule: 'r9', behind: null })).toBeNull();
    expect(maybeRuleDesk(store, id, { rule: null, behind: 'r9' })).toBeNull();
  });
  test('one that begins with what is known of it', () => {
    const tests = { kind: 'all' as const, children: [] };
    const desk = maybeRuleDesk(store, id, {
      rule: null,
      behind: null,
      beginning: { name: 'Ida', tests, folder: 'Oak' },
    });
    expect(desk?.rule).toMatchObject({ name: 'Ida', tests, actions: [{ action: 'fileinto', folder: 'Oak' }] });
  });
  test('what its fields may be filled with: folders of mail and rules, the busiest senders first, lists, today', () => {
    const offers = maybeRuleDesk(store, id, { rule: null, behind: null })?.offers;
    expect(offers?.folders).toEqual(['Floods', 'INBOX', 'Letters', 'Oak']);
    expect(offers?.senders.slice(0, 2)).toEqual(['ida@oak.example', 'tom@oak.example']);
    expect(offers?.senders).toContain('weir.example');
    expect(offers?.lists).toEqual(['guild.lists.example']);
    expect(offers?.today).toBe(new Date(audit().clock.otherwise).toISOString().slice(0, 10));
  });
  test('a script block has no such desk', async () => {
    await addFile('block.sieve', 'require "variables";\n# Block\nset "a" "b";\n');
    const block = audit().draft.entries.find(({ kind }) => kind === 'script');
    expect(block && maybeRuleDesk(store, id, { rule: block.id, behind: null })).toBeNull();
  });
});

describe('two rules together', () => {
  test('the mail that each holds for alone, and both', () => {
    expect(maybePair(store, id, 'r2', 'r1')).toMatchObject({
      rules: [{ name: 'Oak' }, { name: 'Floods' }],
      split: { onlyFirst: 1, both: 1, onlySecond: 2 },
      madeUp: null,
    });
    expect(maybePair(store, id, 'r1', 'r9')).toBeNull();
  });
  test('where no stored message is common, one is made up, or there can be none', async () => {
    const pair = maybePair(store, id, 'r1', 'r3');
    expect(pair?.split.both).toBe(0);
    expect(pair?.madeUp).toMatchObject({ answer: 'possible', text: expect.stringContaining('tom@oak.example') });
    await addFile(
      'more.sieve',
      '# Short\nif not header :contains "subject" "letter" { keep; }\n# Also\nif header :is "subject" "a letter" { keep; }',
    );
    await simulated();
    expect(maybePair(store, id, 'r4', 'r5')?.madeUp).toEqual({ answer: 'impossible', assumes: [] });
  });
  test('all against all, as indexes among the rules that are on', () => {
    const map = overlapMapView(store, id);
    expect(map).toMatchObject({ audited: true, total: 7, unasked: 0 });
    expect(map.rules.map(({ number, name }) => `${number} ${name}`)).toEqual(['1 Oak', '2 Floods', '3 Letters']);
    const pairs = map.pairs.map((pair) => pair.join(' '));
    expect(pairs).toContain('0 1 1');
    expect(pairs).toContain('0 2 0');
    makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], '');
    expect(overlapMapView(store, id)).toMatchObject({
      audited: false,
      pairs: [],
      rules: [{ number: 2 }, { number: 3 }],
    });
  });
});

test('the mail of one rule on its way through the chain; of a rule that acts on none, the mail it holds for', () => {
  expect(ruleMailView(store, id, 'r2')).toEqual({ rule: 'r2', of: 'fired', total: 2, passing: [2, 2, 0] });
  expect(ruleMailView(store, id, 'r3')).toEqual({ rule: 'r3', of: 'held', total: 1, passing: [1, 1, 0] });
  expect(() => ruleMailView(store, id, 'r9')).toThrow('There is no such rule.');
});

test('lists with who uses them, and senders of chosen messages for a new one', () => {
  expect(listsView(store, id, [1, 2, 0])).toEqual({
    lists: [],
    senders: expect.arrayContaining(['ida@oak.example', 'tom@oak.example']),
  });
  expect(listsView(store, id, [])).toEqual({ lists: [], senders: [] });
});

describe('expectations', () => {
  test('what the mail suggests is offered until it is kept, and only where most mail is so', () => {
    const { offered, kept } = expectationsView(store, id);
    expect(kept).toEqual([]);
    const names = offered.map(({ expectation }) => expectation.name);
    expect(names).toContain('Nothing is lost');
    expect(names).toContain('No mail leaves');
    // Five of seven are filed away.
    expect(names).not.toContain('Mail to me alone');
    const lost = offered.find(({ expectation }) => expectation.name === 'Nothing is lost');
    expect(lost).toMatchObject({ words: 'All mail must be kept somewhere', about: 7, broken: 0 });
    if (lost) keepExpectation(store, id, { ...lost.expectation, name: 'Under another name' });
    const after = expectationsView(store, id);
    expect(after.offered.map(({ expectation }) => expectation.name)).not.toContain('Nothing is lost');
    expect(after.kept).toMatchObject([{ name: 'Under another name', stored: { about: 7, broken: 0 }, probes: [] }]);
  });
  test('once kept, it is checked for all possible messages by the job that its page starts', async () => {
    const tests = { kind: 'all', children: [] } as const;
    keepExpectation(store, id, { name: 'Nothing is lost', tests, must: { must: 'be kept' } });
    expect(expectationsView(store, id).kept[0]?.reasoned).toBeNull();
    await perform(store, job(), { kind: 'compare', before: 'draft', after: 'draft' });
    expect(expectationsView(store, id).kept[0]?.reasoned).toEqual({ verdict: 'holds', assumes: [] });
  });
  test('people one has written to, and lists that one keeps in one folder, whatever the chain does', async () => {
    goTo(createAudit(store, 'with lists'));
    await fill();
    const sent = Array.from(
      { length: 3 },
      (_, n) => `${FROM}\nFrom: me@mill.example\nTo: a@x.example\nSubject: to Ann ${n}\n\nw\n\n`,
    );
    const news = Array.from({ length: 12 }, (_, n) =>
      letter('n@n.example', `news of oak ${n}`, 'List-Id: <oak.lists.example>\n'),
    );
    await addFile('Sent.mbox', sent.join(''));
    await addFile('Lists.mbox', news.join(''));
    await work();
    setOwnAddresses(store, id, ['me@mill.example']);
    await simulated();
    const { offered } = expectationsView(store, id);
    const found = (name: string) => offered.find(({ expectation }) => expectation.name === name);
    expect(found('Mail from a@x.example')).toMatchObject({
      expectation: { must: { must: 'not be dropped' } },
      because: 'you wrote to this address 3 times',
    });
    // The chain files it into “Oak”.
    expect(found('The list oak.lists.example')).toMatchObject({
      expectation: { must: { must: 'end in', folder: 'Lists' } },
      because: 'you keep 12 of its 12 messages in “Lists”',
      broken: 12,
    });
  });
});
