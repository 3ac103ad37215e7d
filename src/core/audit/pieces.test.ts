import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given, ruleAt } from '../../../test/given';
import { Bitmap } from '../flow/bitmap';
import { applyEdits } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import { sentenceOf } from '../rules/sentence';
import { groupAlike } from './alike';
import { disagree, discards, foldersOf, onlyMarks, placesOf, rejects, takesAway } from './destinations';
import { partsOf } from './parts';
import { exemptingOwn, exemptingRule, exemptingSenders, filed, inInboxToo, withoutRule } from './repairs';
import { addressesByName, fewSenders, sameName } from './senders';
import { type StoredMessage, valued } from './stored';

const HEAD = 'require ["fileinto", "copy", "reject", "imap4flags"];\n';
const chainOf = (script: string) => chainFromSieve(HEAD + script).chain;
const ruleOf = (script: string) => ruleAt(chainOf(script).entries, 0);

/** Messages in which only the author matters. */
const message = (senderName: string, sender: string): StoredMessage => ({
  folder: null,
  seen: false,
  answered: false,
  flagged: false,
  sender,
  senderName,
  recipients: [],
  subject: '',
  date: null,
  listId: null,
  outgoing: false,
  conversation: 0,
});
const mailFrom = (...senders: readonly (readonly [string, string])[]) =>
  valued({
    messages: senders.map(([name, sender]) => message(name, sender)),
    own: new Set(),
    folders: null,
    fieldNames: new Set(),
    bounces: new Map(),
    uses: new Map(),
  });

describe('where rules mean to put mail', () => {
  test.each([
    ['keep;', [], false],
    ['fileinto "Oak";', ['folder Oak'], true],
    ['fileinto :copy "Oak";', [], false],
    ['fileinto "INBOX";', ['folder INBOX'], false],
    ['discard;', ['discard'], true],
    ['reject "no";', ['reject'], true],
    ['redirect "a@b.example";', [], true],
    ['redirect :copy "a@b.example";', [], false],
  ])('%s', (script, places, away) => {
    const rule = ruleOf(script);
    expect([...placesOf(rule)]).toEqual(places);
    expect(takesAway(rule)).toBe(away);
  });

  test('two rules disagree where their places differ; copies and marks disagree with nothing', () => {
    const [oak, elm, drop, copy, mark] = [
      'fileinto "Oak";',
      'fileinto "Elm";',
      'discard;',
      'fileinto :copy "Elm";',
      'addflag "\\\\Seen";',
    ].map(ruleOf);
    expect(disagree(given(oak), given(elm))).toBe(true);
    expect(disagree(given(oak), given(drop))).toBe(true);
    expect(disagree(given(oak), ruleOf('fileinto "Oak";'))).toBe(false);
    expect(disagree(given(oak), given(copy))).toBe(false);
    expect([discards(given(drop)), rejects(given(drop)), onlyMarks(given(mark)), onlyMarks(given(oak))]).toEqual([
      true,
      false,
      true,
      false,
    ]);
    expect(foldersOf(ruleOf('if true { fileinto "Oak"; fileinto "inbox"; fileinto "Elm"; }'))).toEqual(['Oak', 'Elm']);
  });
});

test('messages for which the same atoms hold stand for each other', () => {
  const sets = fc.array(fc.uniqueArray(fc.nat(29)), { maxLength: 5 });
  fc.assert(
    fc.property(sets, fc.uniqueArray(fc.nat(4)), (atoms, some) => {
      const bitmaps = new Map(atoms.map((members, at) => [String(at), Bitmap.of(30, members)]));
      const alike = groupAlike(bitmaps, 30);
      const kinds = new Set(
        Array.from({ length: 30 }, (_, number) => atoms.map((atom) => atom.includes(number)).join()),
      );
      expect(alike.count).toBe(kinds.size);
      for (const bitmap of bitmaps.values()) {
        expect([...alike.spread(alike.project(bitmap)).members()]).toEqual([...bitmap.members()]);
      }
      const groups = Bitmap.of(
        alike.count,
        some.filter((group) => group < alike.count),
      );
      expect([...alike.project(alike.spread(groups)).members()]).toEqual([...groups.members()]);
    }),
  );
});

test('parts that can be left out: tests, keys and exceptions, each by itself; the last test of a tree is not', () => {
  const rule = ruleOf(
    'if allof (header :is "subject" ["a", "b"], size :over 1K, not exists "x", not exists "y") { fileinto "Oak"; }',
  );
  const parts = partsOf(rule);
  expect(parts.map(({ id }) => id)).toEqual([
    'tests.0',
    'tests.0.key0',
    'tests.0.key1',
    'tests.1',
    'unless.0',
    'unless.1',
  ]);
  for (const { without } of parts) expect(sentenceOf(without).length).toBeLessThan(sentenceOf(rule).length);
  expect(partsOf(ruleOf('if exists "x" { keep; }'))).toEqual([]);
});

describe('repairs', () => {
  const chain = chainOf('if header :is "subject" "a" { discard; } if size :over 1K { fileinto "Oak"; }');
  const [drop, file] = [ruleAt(chain.entries, 0), ruleAt(chain.entries, 1)];
  const sentencesAfter = (edits: Parameters<typeof applyEdits>[1]) => {
    const applied = applyEdits(chain, edits);
    if (!applied.ok) throw new Error(applied.reason);
    return applied.chain.entries.map((one) => sentenceOf(one));
  };

  test('a rule is switched off or taken out', () => {
    const [off, out] = withoutRule(chain, drop);
    expect(given(off).edits).toEqual([{ kind: 'switch', id: drop.id, on: false }]);
    expect(sentencesAfter(given(out).edits)).toEqual([sentenceOf(file)]);
  });

  test('mail is filed instead of dropped, or only marked; a rule that does neither has no such repair', () => {
    expect(filed(chain, drop).map(({ edits }) => sentencesAfter(edits)[0])).toEqual([
      'When the subject is “a”: file into “Doubtful”; later rules still run.',
      'When the subject is “a”: mark as “$Doubtful”; later rules still run.',
    ]);
    expect(filed(chain, file)).toEqual([]);
    expect(sentencesAfter(given(inInboxToo(chain, file)[0]).edits)[1]).toContain(
      'file into “Oak” and keep in the inbox',
    );
  });

  test('senders, own mail and the mail of another rule are exempted', () => {
    expect(exemptingSenders(chain, drop, [])).toEqual([]);
    expect(sentencesAfter(given(exemptingSenders(chain, drop, ['a@b.example'])[0]).edits)[0]).toContain(
      'unless the address in From is “a@b.example”',
    );
    expect(exemptingOwn(chain, drop, [])).toEqual([]);
    expect(sentencesAfter(given(exemptingOwn(chain, drop, ['me@b.example'])[0]).edits)[0]).toContain(
      'unless the field List-Id is missing',
    );
    expect(sentencesAfter(given(exemptingRule(chain, file, drop)[0]).edits)[1]).toContain('unless the subject is “a”');
    expect(exemptingRule(chain, file, { ...drop, link: 'otherwise' })).toEqual([]);
  });
});

describe('authors', () => {
  const mail = mailFrom(
    ['Ann Miller', 'ann@a.example'],
    ['Ann Miller', 'ann@b.example'],
    ['Bo', 'bo@a.example'],
    ['', ''],
  );
  const of = (...numbers: number[]) => Bitmap.of(4, numbers);

  test('each once, none without an address, nobody where there are too many', () => {
    expect(fewSenders(of(0, 2, 3), mail)).toEqual(['ann@a.example', 'bo@a.example']);
    const many = mailFrom(...Array.from({ length: 25 }, (_, at) => ['x', `x${at}@a.example`] as const));
    expect(fewSenders(Bitmap.full(25), many)).toEqual([]);
  });

  test('a name of two words from another address is told; one word tells nobody', () => {
    const own = of(0, 2);
    expect([...addressesByName(own, mail).keys()]).toEqual(['ann miller']);
    expect([0, 1, 2, 3].filter((number) => sameName(own, mail)(mail.message(number)))).toEqual([1]);
  });
});
