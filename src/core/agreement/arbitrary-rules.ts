import fc from 'fast-check';
import { testWritten } from '../rules/as-written';
import { tidyNote } from '../rules/marks';
import type { Action, Chain, LeafTest, Rule, TestTree, TextMatch } from '../rules/rule';
import { elementAt } from '../text/lookup';

/** Generated rules as the reader of scripts returns them, for chains built from data alone. */

const hostile = fc.constantFrom(
  'x',
  'oak',
  '*',
  'a"b',
  'a\\b',
  '${x}',
  '${hex:40}',
  '',
  'Müll',
  'a*/b',
  '#',
  '漢字',
  ';',
);
const word = fc.oneof(hostile, fc.string({ unit: 'grapheme', maxLength: 12 }).map(withoutControls));
const HEADERS = ['Subject', 'From', 'To', 'X-Tag'];
const some = <T>(from: fc.Arbitrary<T>) => fc.array(from, { minLength: 1, maxLength: 3 });
const headers = fc.uniqueArray(fc.constantFrom(...HEADERS), { minLength: 1, maxLength: 2 });

function withoutControls(text: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what a line of a script cannot hold
  return text.replace(/[\u0000-\u001f\u007f-\u009f\u2028\u2029]/g, '');
}

const FURTHER = [
  'body :contains "oak"',
  'header :count "ge" :comparator "i;ascii-numeric" "to" "2"',
  'header :count "ge" ["to", "x-tag"] "1"',
  'header :count "lt" "x-tag" "1"',
  'address :value "eq" :domain "from" ["mill.example", "x"]',
  'header :index 1 :last :contains "subject" "oak"',
  'header :mime :anychild :contains "content-disposition" "attachment"',
  'date :value "ge" :originalzone "date" "date" "2024-05-17"',
  'date :is "date" "month" ["01", "07"]',
  'currentdate :value "ge" "date" "2026-01-01"',
  'string :is "oak" ["oak", "elm"]',
  'string :matches ["a", "oak"] "o*"',
  'environment :contains "domain" "mill"',
  'spamtest :value "lt" :comparator "i;ascii-numeric" "5"',
  'mailboxexists "Oak"',
  'duplicate :header "x-tag"',
  'exists :mime :anychild "content-type"',
  'ihave ["fileinto", "other"]',
].map(testWritten);

const textMatch: fc.Arbitrary<TextMatch> = fc.record({
  match: fc.constantFrom('is' as const, 'contains' as const, 'matches' as const),
  comparator: fc.constantFrom('i;ascii-casemap', 'i;octet', 'i;unicode-casemap'),
  keys: some(word),
});
const part = fc.constantFrom('all' as const, 'localpart' as const, 'domain' as const);
const leaf: fc.Arbitrary<LeafTest> = fc.oneof(
  fc.tuple(headers, textMatch).map(([names, match]): LeafTest => ({ test: 'header', headers: names, ...match })),
  fc
    .tuple(headers, part, textMatch)
    .map(([names, which, match]): LeafTest => ({ test: 'address', headers: names, part: which, ...match })),
  fc
    .tuple(part, textMatch)
    .map(([which, match]): LeafTest => ({ test: 'envelope', parts: ['from'], part: which, ...match })),
  headers.map((names): LeafTest => ({ test: 'exists', headers: names })),
  fc
    .tuple(fc.constantFrom('over' as const, 'under' as const), fc.constantFrom(0, 1, 100, 1024, 3 * 1024 ** 2))
    .map(([relation, octets]): LeafTest => ({ test: 'size', relation, octets })),
  fc.constantFrom(...FURTHER),
);
const leafTree = leaf.map((test): TestTree => ({ kind: 'leaf', test }));

const tree: fc.Arbitrary<TestTree> = fc.letrec<{ tree: TestTree }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    leafTree,
    fc
      .tuple(fc.constantFrom('all' as const, 'any' as const), fc.array(tie('tree'), { maxLength: 3 }))
      .map(([kind, children]): TestTree => ({ kind, children })),
    // A single `any` within would be read as its members.
    fc
      .array(tie('tree'), { minLength: 1, maxLength: 3 })
      .map((children): TestTree => (isSingleAny(children) ? elementAt(children, 0) : { kind: 'none', children })),
  ),
})).tree;

const isSingleAny = (children: readonly TestTree[]): boolean =>
  children.length === 1 && children[0]?.kind === 'any' && children[0].children.length > 0;

/** The tests of a rule are never an all around a single test. */
function outermost(found: TestTree): TestTree {
  const only = found.kind === 'all' && found.children.length === 1 ? found.children[0] : undefined;
  return only ? outermost(only) : found;
}

const flags = fc.option(fc.array(fc.constantFrom('\\seen', 'oak', '\\flagged'), { minLength: 1, maxLength: 2 }));
const folder = word.map((name) => name || 'x');
const action: fc.Arbitrary<Action> = fc.oneof(
  fc.record(
    {
      action: fc.constant('fileinto' as const),
      folder,
      copy: fc.boolean(),
      flags,
      create: fc.constant(true as const),
    },
    { requiredKeys: ['action', 'folder', 'copy', 'flags'] },
  ),
  fc.record({ action: fc.constant('keep' as const), flags }),
  fc.record({ action: fc.constant('redirect' as const), address: fc.constant('ann@mill.example'), copy: fc.boolean() }),
  fc.constant<Action>({ action: 'discard' }),
  fc.record({ action: fc.constant('addflag' as const), flags: fc.constant(['oak']) }),
  fc.constant<Action>({ action: 'vacation', period: { unit: 'days', number: 3 }, reason: 'away' }),
);

const line = fc
  .oneof(
    fc.constantFrom('Oak', 'off: Oak', 'on: Oak', '# x', '#', 'off:', 'a */ b', 'require "x";', '» told', '\\\\» x'),
    word,
  )
  .map((text) => text.trim());
const name = line.map((text) => text || 'Oak');
const note = fc.array(line, { maxLength: 3 }).map((lines) => tidyNote(lines.join('\n')));

const rule: fc.Arbitrary<Omit<Rule, 'id' | 'link'>> = fc
  .record({
    name,
    note,
    on: fc.boolean(),
    tests: tree.map(outermost),
    unless: fc.array(
      tree.filter((found) => found.kind !== 'any' || found.children.length === 0),
      { maxLength: 2 },
    ),
    // Two replies to one message are an error (RFC 5230 section 4.7).
    actions: fc
      .array(action, { maxLength: 3 })
      .map((list) => list.filter(({ action: does }, at) => does !== 'vacation' || at === 0)),
    ending: fc.constantFrom('continue' as const, 'stop' as const),
  })
  .map((parts) => ({ kind: 'rule' as const, ...parts }));

/** Chains of rules without script blocks. */
export const ruleChain: fc.Arbitrary<Chain> = fc
  .array(fc.tuple(rule, fc.boolean()), { minLength: 1, maxLength: 5 })
  .map((rules) => ({
    entries: rules.map(
      ([parts, linked], at): Rule => ({ ...parts, id: `r${at + 1}`, link: linked && at > 0 ? 'otherwise' : 'always' }),
    ),
    closing: '',
  }));
