import { describe, expect, test } from 'vitest';
import { given, ruleAt } from '../../../test/given';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { auditChain } from './catalogue';
import type { FindingKind } from './kind-words';
import { MailGatherer } from './stored';

/** Kinds proved from the rules alone, without mail: what each states, and what it does not. */

const NEEDS = [
  'vacation',
  'comparator-i;ascii-numeric',
  'fileinto',
  'imap4flags',
  'copy',
  'envelope',
  'variables',
  'date',
  'relational',
  'body',
  'subaddress',
];

const chainOf = (rules: readonly string[]): Chain => {
  const { chain, diagnostics } = chainFromSieve(`require ${JSON.stringify(NEEDS)};\n${rules.join('\n')}\n`);
  expect(diagnostics).toEqual([]);
  return chain;
};

/** The proved findings: kind and numbers of rules. */
function proved(chain: Chain, kinds: readonly FindingKind[]): string[] {
  const columns = new MemoryColumns();
  const atoms = evaluateAtoms(atomsOf(chain), columns);
  const input = { chain, flow: runFlow(chain, atoms, 0), atoms, mail: new MailGatherer().mail([]) };
  return auditChain(input).findings.flatMap(({ kind, certainty, rules }) =>
    kinds.includes(kind) && certainty === 'proved' ? [`${kind} ${rules.join(' ')}`] : [],
  );
}

/** The chain with so many rules after it that it is no longer compared as a whole; these rules are off. */
function long(chain: Chain): Chain {
  const [first] = chain.entries.filter((entry) => entry.kind === 'rule');
  const off = Array.from({ length: 81 }, (_, at) => ({
    ...ruleAt([given(first)], 0),
    id: `off${at}`,
    on: false,
    link: 'always' as const,
  }));
  return { ...chain, entries: [...chain.entries, ...off] };
}

const subject = (words: string, does: string, how = ':contains') => `if header ${how} "subject" "${words}" { ${does} }`;
const OAK = 'fileinto "Oak";';

type Row = readonly [name: string, rules: readonly string[], stated: readonly string[]];

const table = (kind: FindingKind, rows: readonly Row[]) =>
  describe(kind, () => {
    test.each(rows)('%s', (_, rules, stated) => {
      expect(proved(chainOf(rules), [kind])).toEqual(stated);
    });
  });

table('contradiction', [
  [
    'two senders',
    [`if allof (address "from" "a@mill.example", address "from" "b@mill.example") { ${OAK} }`],
    ['contradiction r1'],
  ],
  [
    'two values of one field, which some messages have twice',
    [`if allof (header "subject" "a", header "subject" "b") { ${OAK} }`],
    [],
  ],
  ['no From, which some messages lack', [`if not exists "from" { ${OAK} }`], []],
  [
    'a value with and without a word',
    [`if allof (header "subject" "ab", not header :contains "subject" "b") { ${OAK} }`],
    ['contradiction r1'],
  ],
  [
    'two values of a field that may occur twice',
    [`if allof (header "received" "a", header "received" "b") { ${OAK} }`],
    [],
  ],
  [
    'larger than large and smaller than small',
    [`if allof (size :over 2K, size :under 1K) { ${OAK} }`],
    ['contradiction r1'],
  ],
  ['sizes between which there is one', [`if allof (size :over 1K, size :under 1026) { ${OAK} }`], []],
  [
    'a key that is tested for and exempt',
    [`if allof (header "subject" "a", not header "subject" "A") { ${OAK} }`],
    ['contradiction r1'],
  ],
  [
    'exempt in another case that is another value',
    [
      `if allof (header :comparator "i;octet" "subject" "a", not header :comparator "i;octet" "subject" "A") { ${OAK} }`,
    ],
    [],
  ],
]);

table('shadowed', [
  [
    'a longer word behind a shorter one that ends',
    [subject('oak', 'stop;'), subject('oak beam', OAK)],
    ['shadowed r2 r1'],
  ],
  ['a longer word behind a shorter one that goes on', [subject('oak', 'addflag "oak";'), subject('oak beam', OAK)], []],
  [
    'by two together, and by neither alone',
    ['if exists "x-tag" { stop; }', 'if not exists "x-tag" { stop; }', subject('oak', OAK)],
    ['shadowed r3 r1 r2'],
  ],
  [
    'an address of a domain that ended before',
    ['if address :domain "from" "oak.example" { stop; }', `if address "from" "tom@oak.example" { ${OAK} }`],
    ['shadowed r2 r1'],
  ],
  [
    'an address of a domain below it',
    ['if address :domain "from" "oak.example" { stop; }', `if address "from" "tom@yard.oak.example" { ${OAK} }`],
    [],
  ],
]);

const REDUNDANT: readonly Row[] = [
  ['the same twice', [subject('oak', OAK), subject('oak', OAK)], ['redundant r1', 'redundant r2']],
  ['a narrower one behind a wider one that goes on', [subject('oak', OAK), subject('oak beam', OAK)], ['redundant r2']],
  ['a narrower one before a wider one', [subject('oak beam', OAK), subject('oak', OAK)], ['redundant r1']],
  [
    'a narrower one that ends, directly before a wider one that does',
    [subject('oak beam', `${OAK} stop;`), subject('oak', `${OAK} stop;`)],
    ['redundant r1'],
  ],
  [
    'the same, with one between that acts on such mail',
    [subject('oak beam', `${OAK} stop;`), subject('beam', 'fileinto "Beams";'), subject('oak', `${OAK} stop;`)],
    [],
  ],
  ['into another folder', [subject('oak', OAK), subject('oak beam', 'fileinto "Beams";')], []],
  [
    'with flags set between them',
    [subject('oak', OAK), subject('beam', 'addflag "\\\\Flagged";'), subject('oak beam', OAK)],
    [],
  ],
  [
    'with flags set between them, for other mail alone',
    [subject('oak', OAK, ':is'), subject('lime', 'addflag "\\\\Flagged";', ':is'), subject('oak', OAK, ':is')],
    ['redundant r1', 'redundant r3'],
  ],
];
table('redundant', REDUNDANT);

describe('redundant, of a chain too long to be compared as a whole', () => {
  test.each(REDUNDANT)('%s: nothing is stated that is not of the short one', (_, rules, stated) => {
    const found = proved(long(chainOf(rules)), ['redundant']);
    expect(stated).toEqual(expect.arrayContaining(found));
  });
  test('what stands beside one that does the same is found all the same', () => {
    expect(proved(long(chainOf([subject('oak', OAK), subject('oak beam', OAK)])), ['redundant'])).toEqual([
      'redundant r2',
    ]);
    const three = chainOf([
      subject('oak beam', `${OAK} stop;`),
      subject('lime', 'fileinto "Lime";'),
      subject('oak', `${OAK} stop;`),
    ]);
    // Mail about oak beams and lime would be filed with the lime as well.
    expect(proved(long(three), ['redundant'])).toEqual([]);
  });
  test('not the head of a run, without which the rules linked to it would be tried', () => {
    const run = chainOf([
      subject('oak', OAK),
      `if header :contains "subject" "oak beam" { ${OAK} }\nelsif exists "x" { discard; }`,
    ]);
    expect(proved(long(run), ['redundant'])).not.toContain('redundant r2');
  });
  test('nor with a script between them, which may do anything', () => {
    const block = 'set "a" "b";\nif string "${a}" "b" { addflag "\\\\Seen"; }';
    const chain = chainOf([subject('oak', OAK), block, subject('oak beam', OAK)]);
    expect(chain.entries.map(({ kind }) => kind)).toContain('script');
    expect(proved(long(chain), ['redundant'])).toEqual([]);
  });
});

const MARKED = `${OAK} addflag "\\\\Seen";`;
const AWAY = 'vacation "I am away.";';

table('mergeable', [
  ['neighbours that do the same', [subject('oak', OAK), subject('ash', OAK)], ['mergeable r1 r2']],
  ['neighbours that file and then set a flag', [subject('oak', MARKED), subject('ash', MARKED)], []],
  [
    'the same, if the first ends',
    [subject('oak', `${MARKED} stop;`), subject('ash', `${MARKED} stop;`)],
    ['mergeable r1 r2'],
  ],
  ['neighbours of which a second reply is an error', [subject('oak', AWAY), subject('ash', AWAY)], []],
  ['neighbours, one of which ends', [subject('oak', `${OAK} stop;`), subject('ash', OAK)], []],
  [
    'across one that files elsewhere and goes on',
    [subject('oak', OAK), subject('elm', 'fileinto "Elm";'), subject('ash', OAK)],
    ['mergeable r1 r3'],
  ],
  ['across one that ends', [subject('oak', OAK), subject('elm', 'fileinto "Elm"; stop;'), subject('ash', OAK)], []],
]);

table('subsumed-test', [
  ['a key that another covers', [`if header :contains "subject" ["oak", "oak beam"] { ${OAK} }`], ['subsumed-test r1']],
  ['keys of which none covers another', [`if header :contains "subject" ["oak", "beam"] { ${OAK} }`], []],
  ['keys that only look as if', [`if header :is "subject" ["oak", "oak beam"] { ${OAK} }`], []],
  [
    'a domain beside an address of it',
    [`if anyof (address :domain "from" "oak.example", address "from" "tom@oak.example") { ${OAK} }`],
    ['subsumed-test r1'],
  ],
]);

table('exception-void', [
  [
    'one that cannot be',
    [`if allof (header :is "subject" "oak", not header :contains "subject" "lime") { ${OAK} }`],
    ['exception-void r1'],
  ],
  [
    'one that can',
    [`if allof (header :contains "subject" "oak", not header :contains "subject" "lime") { ${OAK} }`],
    [],
  ],
]);

const from = (test_: string) => `if ${test_} { ${OAK} }`;

table('too-narrow', [
  ['an asterisk that is no wildcard', [from('header :contains "subject" "*oak*"')], ['too-narrow r1']],
  ['an asterisk in equality', [from('address :domain :is "from" "*.mill.example"')], ['too-narrow r1']],
  ['a footnote', [from('header :contains "subject" "5 * 4"')], []],
  ['a pattern without a wildcard', [from('header :matches "subject" "oak"')], ['too-narrow r1']],
  ['a pattern with one', [from('header :matches "subject" "oak?"')], []],
  ['a domain with @', [from('address :domain :contains "from" "@mill.example"')], ['too-narrow r1']],
  ['a local part with a domain', [from('address :localpart :is "from" "ann@mill.example"')], ['too-narrow r1']],
  ['a display name', [from('address :is "from" "Ann Lee"')], ['too-narrow r1']],
  ['a display name with an address', [from('address :is "from" "Ann Lee <ann@mill.example>"')], ['too-narrow r1']],
  ['an address', [from('address :is "from" "ann@mill.example"')], []],
  ['a display name in the whole field', [from('header :contains "from" "Ann Lee"')], []],
  ['an asterisk in a search of the text', [from('body :contains "*oak*"')], ['too-narrow r1']],
  ['a detail with @', [from('address :detail :is "to" "lists@mill.example"')], ['too-narrow r1']],
  ['a detail', [from('address :detail :is "to" "lists"')], []],
]);

table('runs-on', [
  ['discard beside fileinto', ['if header :contains "subject" "oak" { fileinto "Oak"; discard; }'], ['runs-on r1']],
  ['discard alone', ['if header :contains "subject" "oak" { discard; }'], []],
  ['a redirect and discard', ['if header :contains "subject" "oak" { redirect "a@mill.example"; discard; }'], []],
]);

table('idle', [
  ['a date that is over', [from('currentdate :value "le" "date" "2019-12-31"')], ['idle r1']],
  ['a year that is over', [from('currentdate :is "year" ["2018", "2019"]')], ['idle r1']],
  ['a date beside something else', [from('anyof (currentdate :is "year" "2019", header "subject" "oak")')], []],
  ['a date that returns', [from('currentdate :is "month" "07"')], []],
  ['a date to come', [from('currentdate :value "ge" "date" "2019-12-31"')], []],
]);

table('contradiction', [
  ['a domain that no address has', [from('address :domain :is "from" "@mill.example"')], ['contradiction r1']],
  ['a detail with @', [from('address :detail :is "to" "lists@mill.example"')], []],
  ['a display name as an address', [from('address :is "from" "Ann Lee"')], ['contradiction r1']],
  ['a flag that nothing sets', [from('hasflag "oak"')], ['contradiction r1']],
]);

table('shadowed', [
  [
    'a score pair',
    [
      'if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "5" { fileinto "Doubtful"; stop; }',
      'if header :value "ge" :comparator "i;ascii-numeric" "x-spam-score" "10" { discard; }',
    ],
    ['shadowed r2 r1'],
  ],
]);

describe('bulk-word', () => {
  const kinds = ['bulk-word'] as const;

  test('the word for unsubscribing in a text or subject, in a rule that takes mail away', () => {
    const words = ['body :contains "Unsubscribe"', 'header :contains "subject" ["oak", "abbestellen"]'];
    const rules = words.map((word) => `if ${word} { fileinto "Bulk"; }`);
    expect(proved(chainOf(rules), kinds)).toEqual(['bulk-word r1', 'bulk-word r2']);
  });

  test('not the field that bulk mail has, an exception, or a mark', () => {
    const rules = [
      'if exists "list-unsubscribe" { fileinto "Bulk"; }',
      'if allof (exists "list-id", not body :contains "unsubscribe") { fileinto "Lists"; }',
      'if body :contains "unsubscribe" { addflag "$bulk"; }',
      'if header :contains "list-unsubscribe" "unsubscribe" { fileinto "Bulk"; }',
    ];
    expect(proved(chainOf(rules), kinds)).toEqual([]);
  });
});
