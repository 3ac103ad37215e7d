import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readMessage } from '../../mail/message';
import { chainFromSieve } from '../../rules/from-sieve';
import { type Chain, conditionOf, type LeafTest, type NamedList, type Rule, type TestTree } from '../../rules/rule';
import { fateKey } from '../../sieve/interpret/fate';
import { interpreter } from '../../sieve/interpret/interpret';
import { ARRIVAL } from '../../sieve/interpret/world';
import { parse } from '../../sieve/parse';
import { elementAt } from '../../text/lookup';
import { prepareScript } from '../prepare';
import { DEFAULT_CHOICES, rewriteFor } from '../rewrite';
import { NO_LIMITS, type Target } from '../target';
import { Verifier } from '../verify';
import { resolved } from './extlists';
import { depthOf, flattened } from './nesting';

const server = (capabilities: readonly string[], limits: Partial<Target['limits']> = {}): Target => ({
  id: 'own',
  capabilities,
  limits: { ...NO_LIMITS, ...limits },
});
const FILEINTO = server(['fileinto', 'comparator-i;ascii-numeric']);

/** A test rewritten for a server, with its difference. */
function said(source: string, target = FILEINTO) {
  const requires = [
    'relational',
    'date',
    'index',
    'comparator-i;ascii-numeric',
    'comparator-i;unicode-casemap',
    'fileinto',
  ];
  const script = `require ${JSON.stringify(requires)};\n# A\nif ${source} { fileinto "A"; }\n`;
  const { text, costs } = prepareScript(chainFromSieve(script).chain, target, DEFAULT_CHOICES);
  const test = /^if ([\s\S]*?) \{$/m.exec(text)?.[1] ?? null;
  return { test: test?.replace(/\s+/g, ' ') ?? null, costs: costs.map(({ words }) => words) };
}

describe('lists of a server that takes few strings', () => {
  const few = server(['fileinto', 'imap4flags', 'envelope'], { strings: 2 });
  const prepared = (source: string) => {
    const script = `require ["fileinto", "imap4flags"];\n# A\n${source}`;
    return prepareScript(chainFromSieve(script).chain, few, DEFAULT_CHOICES);
  };
  test('are split: any of several tests, all of several fields', () => {
    const { text, costs, beyond } = prepared(
      'if allof (header :contains ["to", "cc", "bcc"] ["a", "b", "c"], exists ["x", "y", "z"]) { fileinto "A"; }',
    );
    expect(/^if ([\s\S]*?) \{$/m.exec(text)?.[1]?.replace(/\s+/g, ' ')).toBe(
      'allof ( anyof ( header :contains ["to", "cc"] ["a", "b"], header :contains "bcc" ["a", "b"], ' +
        'header :contains ["to", "cc"] "c", header :contains "bcc" "c" ), allof (exists ["x", "y"], exists "z") )',
    );
    expect([costs, beyond]).toEqual([[], []]);
  });
  test.each([
    ['setflag ["a", "b", "c"];', 'setflag ["a", "b"]; addflag "c";'],
    ['addflag ["a", "b", "c", "d"];', 'addflag ["a", "b"]; addflag ["c", "d"];'],
    ['removeflag ["a", "b", "c"];', 'removeflag ["a", "b"]; removeflag "c";'],
    ['setflag ["a", "b"];', 'setflag ["a", "b"];'],
  ])('of flags, as several actions: %s', (source, expected) => {
    const { text, costs } = prepared(source);
    expect(text.slice(text.indexOf('# A')).replace(/\s+/g, ' ')).toContain(expected);
    expect(costs).toEqual([]);
  });
  test('of what is required, as several commands', () => {
    const { text, requires } = prepareScript(
      chainFromSieve(
        'require ["fileinto", "imap4flags", "envelope"];\n# A\nif envelope "from" "a" { addflag "x"; fileinto "A"; }\n',
      ).chain,
      few,
      DEFAULT_CHOICES,
    );
    expect(text).toMatch(/^require \["envelope", "fileinto"\];\n\nrequire "imap4flags";\n/);
    expect(requires).toEqual(['envelope', 'fileinto', 'imap4flags']);
    expect(chainFromSieve(text).diagnostics).toEqual([]);
  });
  test.each(['keep :flags ["a", "b", "c"];', 'if true { fileinto :flags ["a", "b", "c"] "A"; }'])(
    'that cannot be split are left to the user: %s',
    (source) => {
      const { text, costs } = prepared(source);
      expect(costs).toMatchObject([
        {
          kind: 'unsayable',
          without: '',
          words: 'it has a list with more than the 2 strings that the server accepts',
          ways: ['left out', 'as a comment'],
        },
      ]);
      expect(text).toBe('');
    },
  );
  test('a rule that redirects more often than a server allows is left to the user', () => {
    const sent = (source: string) =>
      prepareScript(chainFromSieve(`# A\n${source}`).chain, server([], { redirects: 1 }), DEFAULT_CHOICES).costs;
    expect(sent('if true { redirect "a@x.example"; }')).toEqual([]);
    expect(sent('if true { redirect "a@x.example"; redirect "b@x.example"; }').map(({ words }) => words)).toEqual([
      'it redirects to more addresses than the server allows',
    ]);
  });
});

describe('counts of a field (RFC 5231)', () => {
  test.each([
    ['header :count "ge" :comparator "i;ascii-numeric" "list-id" "1"', 'exists "list-id"'],
    ['header :count "gt" "list-id" "0"', 'exists "list-id"'],
    ['header :count "eq" "list-id" "0"', 'not exists "list-id"'],
    ['header :count "lt" ["a", "b"] "1"', 'not anyof (exists "a", exists "b")'],
    ['header :value "eq" "subject" "x"', 'header :is "subject" "x"'],
    ['address :value "eq" :domain "from" "x"', 'address :domain :is "from" "x"'],
  ])('%s', (source, expected) => {
    expect(said(source)).toEqual({ test: expected, costs: [] });
  });
  test.each([
    'header :count "ge" :comparator "i;ascii-numeric" "to" "2"',
    'address :count "ge" "to" "1"',
    'header :value "gt" "x-score" "5"',
  ])('%s cannot be said', (source) => {
    expect(said(source)).toEqual({ test: null, costs: ['it needs relational'] });
  });
});

test('one occurrence of a field (RFC 5260 section 6) is looked for among all', () => {
  expect(said('header :index 2 :last :contains "received" "x"')).toEqual({
    test: 'header :contains "received" "x"',
    costs: ['all fields of that name are compared, not just one of them'],
  });
});

describe('dates (RFC 5260)', () => {
  const forms = (source: string) => said(source).test?.replace(/^header :matches "date" /, '') ?? null;
  test.each([
    ['date "date" "year" "2024"', '"* 2024 *"'],
    ['date "date" "month" "02"', '"* Feb *"'],
    ['date "date" "weekday" "0"', '"Sun,*"'],
    ['date "date" "date" "2024-02-29"', '["29 Feb 2024 *", "* 29 Feb 2024 *"]'],
    ['date "date" "day" "07"', '["7 ??? ???? *", "* 7 ??? ???? *", "07 ??? ???? *", "* 07 ??? ???? *"]'],
    ['date :value "ge" "date" "year" "2068"', '["* 2068 *", "* 2069 *"]'],
    [
      'date :value "gt" "date" "date" "2069-10-30"',
      '["31 Oct 2069 *", "* 31 Oct 2069 *", "* Nov 2069 *", "* Dec 2069 *"]',
    ],
    [
      'date :value "le" "date" "date" "1990-02-01"',
      '["* Jan 1990 *", "1 Feb 1990 *", "* 1 Feb 1990 *", "01 Feb 1990 *", "* 01 Feb 1990 *"]',
    ],
    ['date :value "lt" "date" "year" "1992"', '["* 1990 *", "* 1991 *"]'],
  ])('%s', (source, expected) => {
    expect(forms(source)).toBe(expected);
  });
  test.each(['currentdate "year" "2024"', 'date "date" "hour" "09"', 'date "received" "year" "2024"'])(
    '%s cannot be said',
    (source) => expect(said(source).test).toBe(null),
  );
  test('a key that no date has holds for none', () => {
    expect(forms('date "date" "date" "2023-02-29"')).toBe('false');
  });
});

test('upper and lower case beyond ASCII (RFC 5051) is spelt out', () => {
  expect(said('header :comparator "i;unicode-casemap" :contains "subject" ["ÖL", "oak"]')).toEqual({
    test: 'header :contains "subject" ["ÖL", "öl", "Öl", "oak"]',
    costs: ['non-ASCII letters match only as written in the rule, or all in lower or upper case'],
  });
});

describe('variables that never change (RFC 5229)', () => {
  const said = (source: string) => {
    const { chain } = chainFromSieve(`require ["variables", "fileinto", "relational"];\n${source}`);
    return rewriteFor(chain, server(['fileinto', 'relational'])).chain.entries;
  };
  test('stand where they are referred to, in whichever entry that is', () => {
    const [yard, box, first, second] = said(
      'set "yard" "Timber";\nset "box" "${yard}/Lime";\nif header "subject" "x" { fileinto "${BOX}"; stop; }\nkeep;\n',
    );
    expect([yard?.on, box?.on, second?.kind]).toEqual([false, false, 'rule']);
    expect(first).toMatchObject({ on: true, requires: [] });
    expect(first?.kind === 'script' && first.text).toBe(
      'if header "subject" "x" {\n    fileinto "Timber/Lime";\n    stop;\n}',
    );
  });
  test.each([
    ['that is set twice', 'set "a" "x"; set "a" "y"; fileinto "${a}";'],
    ['that is set where a test holds', 'if header "subject" "x" { set "a" "x"; }\nfileinto "${a}";'],
    ['that is changed', 'set :upper "a" "x"; fileinto "${a}";'],
    ['that a match sets', 'if header :matches "subject" "*x*" { fileinto "${1}"; }'],
    ['that is never set', 'fileinto "a${b}";'],
    ['that is compared', 'set "a" "x"; if string "${a}" "x" { fileinto "${a}"; }'],
    ['that holds the sign of a reference', 'set "a" "$"; fileinto "${a}{b}";'],
  ])('one %s is left to the user', (_, source) => {
    expect(said(source).at(-1)).toMatchObject({ on: false });
  });
});

const test0 = (name: string): TestTree => ({ kind: 'leaf', test: { test: 'exists', headers: [name] } });
const rule = (tests: TestTree, unless: readonly TestTree[] = []): Rule => ({
  kind: 'rule',
  id: 'r1',
  name: 'A',
  note: '',
  on: true,
  tests,
  unless,
  actions: [{ action: 'discard' }],
  ending: 'continue',
  link: 'always',
});

describe('nested tests', () => {
  const NAMES = ['a', 'b', 'c', 'd'];
  const tree = fc.letrec<{ tree: TestTree }>((tie) => ({
    tree: fc.oneof(
      { maxDepth: 6, depthSize: 'large' },
      fc.constantFrom(...NAMES).map(test0),
      fc
        .tuple(
          fc.constantFrom('all' as const, 'any' as const, 'none' as const),
          fc.array(tie('tree'), { maxLength: 3 }),
        )
        .map(([kind, children]): TestTree => ({ kind, children })),
    ),
  })).tree;
  const holds = (found: TestTree, there: ReadonlySet<string>): boolean => {
    if (found.kind === 'leaf') return found.test.test === 'exists' && there.has(elementAt(found.test.headers, 0));
    const each = found.children.map((child) => holds(child, there));
    if (found.kind === 'all') return each.every(Boolean);
    return found.kind === 'any' ? each.some(Boolean) : !each.some(Boolean);
  };

  test('are written flat, and hold for the same messages', () => {
    let changed = 0;
    // Too many alternatives to count.
    let tooMany = 0;
    fc.assert(
      fc.property(tree, fc.array(tree, { maxLength: 2 }), fc.integer({ min: 6, max: 9 }), (tests, unless, most) => {
        const before = rule(tests, unless);
        const after = flattened(before, most);
        if (after !== before) changed++;
        for (let sets = 0; sets < 16; sets++) {
          const there = new Set(NAMES.filter((_, at) => sets & (1 << at)));
          expect(holds(conditionOf(after), there)).toBe(holds(conditionOf(before), there));
        }
        if (depthOf(after) > most) tooMany++;
      }),
      { numRuns: 3000 },
    );
    expect(changed).toBeGreaterThan(300);
    expect(tooMany).toBeLessThan(changed / 50);
  });

  test('that would grow beyond all measure are left to the user', () => {
    let deep: TestTree = test0('x');
    for (let at = 0; at < 24; at++) {
      const kind = at % 2 === 0 ? 'all' : 'any';
      deep = {
        kind,
        children: [deep, { kind: kind === 'all' ? 'any' : 'all', children: [test0(`l${at}`), test0(`r${at}`)] }],
      };
    }
    const chain: Chain = { entries: [rule(deep)], closing: '' };
    expect(prepareScript(chain, FILEINTO, DEFAULT_CHOICES).costs.map(({ kind, words }) => [kind, words])).toEqual([
      ['unsayable', 'its tests are nested deeper than the 15 levels that the server accepts'],
    ]);
    expect(prepareScript(chain, server(['fileinto'], { nesting: null }), DEFAULT_CHOICES).costs).toEqual([]);
  });
});

describe('lists that the server keeps (RFC 6134)', () => {
  const keys = ['Ann@mill.example', 'ben@mill.example'];
  const TEAM: NamedList = { id: 'l1', name: 'Team', keys };
  const by = (parts: Partial<Extract<LeafTest, { test: 'address' }>> = {}): TestTree => ({
    kind: 'leaf',
    test: {
      test: 'address',
      headers: ['from'],
      part: 'all',
      match: 'is',
      comparator: 'i;ascii-casemap',
      keys,
      list: 'l1',
      ...parts,
    },
  });
  const chainOf = (...trees: TestTree[]): Chain => ({
    entries: trees.map((tests, at) => ({ ...rule(tests), id: `r${at}`, name: `Rule ${at}` })),
    closing: '',
    lists: [TEAM],
  });
  const choices = { ...DEFAULT_CHOICES, lists: { l1: 'tag:mill.example,2026:team' } };

  test('are referred to, at a cost', () => {
    const { text, costs, lists } = prepareScript(chainOf(by()), server(['extlists']), choices);
    expect(text).toContain('require "extlists";');
    expect(text).toContain('address :list "from" "tag:mill.example,2026:team"');
    expect(text).not.toContain('ann@');
    expect(costs).toMatchObject([{ kind: 'referred', without: 'extlists' }]);
    expect(lists).toEqual(new Map([['tag:mill.example,2026:team', new Set(['ann@mill.example', 'ben@mill.example'])]]));
  });

  test('are written out where the server has none, the test is another one, or the user has not named them', () => {
    for (const [chain, target, chosen] of [
      [chainOf(by()), server([]), choices],
      [chainOf(by({ match: 'contains' })), server(['extlists']), choices],
      [chainOf(by({ keys: ['bjørn@mill.example'] })), server(['extlists']), choices],
      [chainOf(by()), server(['extlists']), DEFAULT_CHOICES],
    ] as const) {
      const { text, costs } = prepareScript(chain, target, chosen);
      expect(text).not.toContain(':list');
      expect(costs).toEqual([]);
    }
  });

  test('are read back with their keys, and the script does the same where the server has these', () => {
    const chain = chainOf(by(), by({ part: 'domain' }));
    const { text, lists } = prepareScript(chain, server(['extlists']), choices);
    const back = resolved(chainFromSieve(text).chain, lists);
    expect(back.entries.map((entry) => entry.kind === 'rule' && entry.tests)).toEqual(
      [by(), by({ part: 'domain' })].map((tree) => {
        const { list: _, ...own } = tree.kind === 'leaf' && 'keys' in tree.test ? tree.test : expect.fail();
        return { kind: 'leaf', test: { ...own, keys: keys.map((key) => key.toLowerCase()) } };
      }),
    );
    const fates = { fateOf: () => expect.fail() };
    const verifier = new Verifier(text, fates as never, ARRIVAL, ['extlists'], lists);
    expect(verifier.record().faults).toEqual([]);
  });
});

describe('without subaddress (RFC 5233)', () => {
  const piece = fc.string({ unit: fc.constantFrom('a', 'b', '+', '*', '?'), maxLength: 5 });
  const runs = (script: string, locals: readonly string[]) => {
    const run = interpreter(parse(script).script);
    return locals.map((local) => {
      const text = `From: <${local}@x.example>\nTo: me@mill.example\n\n`;
      const message = readMessage(new TextEncoder().encode(text));
      return fateKey(run(message, { from: `${local}@x.example`, to: 'me@mill.example' }).fate);
    });
  };

  test.each(['address', 'envelope'])(
    '%s: the same user and detail are found, but for details with a plus sign',
    (name) => {
      let found = 0;
      fc.assert(
        fc.property(
          fc.constantFrom('user', 'detail'),
          fc.uniqueArray(piece, { minLength: 1, maxLength: 3 }),
          fc.uniqueArray(fc.constantFrom('a', 'b', 'a+', 'a+b', 'ab+a', '+b', 'b+a+b', 'a++', 'a*', 'a+?'), {
            minLength: 3,
          }),
          (part, keys, locals) => {
            const script = `require ["subaddress", "envelope", "fileinto"];\n# A\nif ${name} :${part} "from" ${JSON.stringify(keys)} { fileinto "A"; }\n`;
            const { text, costs } = prepareScript(
              chainFromSieve(script).chain,
              server(['fileinto', 'envelope']),
              DEFAULT_CHOICES,
            );
            expect(text).not.toContain('subaddress');
            expect(costs.map(({ words }) => words)).toEqual(['user and detail are separated at “+” only']);
            const longer = (local: string) => part === 'detail' && local.split('+').length > 2;
            const told = locals.filter((local) => !longer(local));
            const [before, after] = [runs(script, told), runs(text, told)];
            found += before.filter((fate) => fate.includes('"A"')).length;
            expect(after).toEqual(before);
          },
        ),
        { numRuns: 300 },
      );
      expect(found).toBeGreaterThan(20);
    },
  );
});
