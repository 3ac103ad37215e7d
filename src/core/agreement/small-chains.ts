import fc from 'fast-check';
import { atomKey, evaluateAtoms } from '../flow/atoms';
import type { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { addressText } from '../mail/address';
import { addressesOf, fieldsNamed, type MailMessage, readMessage } from '../mail/message';
import type { Assumption } from '../reason/solve/assumptions';
import type { Action, Chain, LeafTest, Rule, TestTree } from '../rules/rule';

/** Random rules over a small vocabulary, and all small messages. */

const KEYS = ['a', 'b', 'ab', ''];
const key = fc.constantFrom(...KEYS);
const leaf: fc.Arbitrary<LeafTest> = fc.oneof(
  fc
    .tuple(
      fc.constantFrom('subject', 'x-tag'),
      fc.constantFrom('is' as const, 'contains' as const, 'matches' as const),
      key,
      fc.boolean(),
    )
    .map(([header, match, word, wild]): LeafTest => {
      const keys = [match === 'matches' ? `${word}${wild ? '*' : '?'}` : word];
      return { test: 'header', headers: [header], match, comparator: 'i;ascii-casemap', keys };
    }),
  fc
    .tuple(
      fc.constantFrom('localpart' as const, 'domain' as const, 'all' as const),
      fc.constantFrom('is' as const, 'contains' as const),
      fc.constantFrom('a', 'b', 'a@b', '@'),
    )
    .map(([part, match, word]): LeafTest => {
      return { test: 'address', headers: ['from'], part, match, comparator: 'i;ascii-casemap', keys: [word] };
    }),
  fc.constantFrom('subject', 'x-tag').map((name): LeafTest => ({ test: 'exists', headers: [name] })),
  fc.constantFrom<LeafTest>({ test: 'hasflag', match: 'is', comparator: 'i;ascii-casemap', keys: ['\\seen'] }),
);
const leafTree = leaf.map((one): TestTree => ({ kind: 'leaf', test: one }));
const tree: fc.Arbitrary<TestTree> = fc.oneof(
  leafTree,
  fc
    .tuple(
      fc.constantFrom('all' as const, 'any' as const, 'none' as const),
      fc.array(leafTree, { minLength: 1, maxLength: 2 }),
    )
    .map(([kind, children]): TestTree => ({ kind, children })),
);
const action: fc.Arbitrary<Action> = fc.oneof(
  fc
    .tuple(fc.constantFrom('A', 'B'), fc.boolean(), fc.constantFrom(null, ['\\seen'], ['x']))
    .map(([folder, copy, flags]): Action => ({ action: 'fileinto', folder, copy, flags })),
  fc.constantFrom<Action>(
    { action: 'discard' },
    { action: 'keep', flags: null },
    { action: 'addflag', flags: ['\\seen'] },
    { action: 'removeflag', flags: ['\\seen'] },
    { action: 'setflag', flags: ['x'] },
    { action: 'redirect', address: 'a@b.example', copy: true },
  ),
);
export const smallRule: fc.Arbitrary<Omit<Rule, 'id' | 'name'>> = fc.record({
  kind: fc.constant('rule' as const),
  note: fc.constant(''),
  on: fc.constant(true),
  tests: tree,
  unless: fc.array(leafTree, { maxLength: 1 }),
  actions: fc.array(action, { minLength: 1, maxLength: 2 }),
  ending: fc.constantFrom('continue' as const, 'stop' as const),
  link: fc.constantFrom('always' as const, 'always' as const, 'otherwise' as const),
});
export const chainOf = (rules: readonly Omit<Rule, 'id' | 'name'>[]): Chain => ({
  entries: rules.map((one, at) => ({ ...one, link: at === 0 ? 'always' : one.link, id: `r${at}`, name: `Rule ${at}` })),
  closing: '',
});

const VALUES = [null, '', 'a', 'b', 'ab', 'ba', 'aa', 'c', 'abc'];
export const SMALL_MESSAGES: readonly MailMessage[] = VALUES.flatMap((subject) =>
  VALUES.flatMap((tag) =>
    ['a@b', 'b@a', 'c@c', 'ab@a', 'c@ab'].map((from) => {
      const lines = [`From: ${from}`];
      if (subject !== null) lines.push(`Subject: ${subject}`);
      if (tag !== null) lines.push(`X-Tag: ${tag}`);
      return readMessage(new TextEncoder().encode(`${lines.join('\n')}\n\n\n`));
    }),
  ),
);

const latin1 = (text: string): MailMessage => readMessage(Uint8Array.from(Buffer.from(text, 'latin1')));

/** Fields missing, empty, repeated, with comments, groups, quoted parts, several addresses, or addresses without a domain. */
const ODD_SENDERS = [
  '',
  'From: ',
  'From: a@b, b@a',
  'From: a@b\nFrom: b@a',
  'From: a@b (ab)',
  'From: a (b) @ b',
  'From: "a"@b',
  'From: "a b"@b',
  'From: ab',
  'From: b: a@b;',
  'From: b: a@b, c@ab;',
  'From: a <b@a>',
  'From: =?utf-8?q?a=40b?= <c@c>',
  'From: =?utf-8?q?a=40b?=',
  'From: \xe9 <a@b>',
  'From: a@',
];
const ODD_SUBJECTS = [
  [''],
  ['Subject: '],
  ['Subject: a'],
  ['Subject: ab'],
  ['Subject: a', 'Subject: b'],
  ['Subject: ', 'Subject: ab'],
  ['Subject: \xe4b'],
  ['Subject: =?utf-8?q?a?= =?utf-8?q?b?='],
  ['Subject: a\n b'],
];

/** Messages as they are found among real ones, but not well formed. */
export const ODD_MESSAGES: readonly MailMessage[] = ODD_SENDERS.flatMap((from) =>
  ODD_SUBJECTS.flatMap((subjects) =>
    ['', 'X-Tag: a', 'X-Tag: b\nX-Tag: '].map((tag) => {
      const lines = [from, ...subjects, tag].filter((line) => line !== '');
      return latin1(`${lines.join('\n')}\n\n\n`);
    }),
  ),
);

/** The assumptions of proofs that a message breaks, told by what the reader of mail sees. */
export function brokenBy(message: MailMessage): readonly Assumption[] {
  const from = fieldsNamed(message, 'from');
  const addresses = from.flatMap((field) => addressesOf(field).map((address) => ({ field, address })));
  const broken: Assumption[] = [];
  if (from.length > 1 || addresses.length > 1) broken.push('one-from');
  const isHidden = ({ field, address }: (typeof addresses)[number]) => {
    const text = addressText(address);
    return !field.value.includes(text) || text.includes('"');
  };
  if (addresses.some(isHidden)) broken.push('plain-address');
  if (fieldsNamed(message, 'subject').length > 1) broken.push('single-fields');
  return broken;
}

/** The envelope of small messages. */
export const SMALL_ENVELOPE = { from: 'a@b', to: 'b@a' };

/** Runs a chain on messages. There are few tests, and each is evaluated once. */
function flowOver(messages: readonly MailMessage[]): (chain: Chain) => Flow {
  const columns = new MemoryColumns();
  for (const message of messages) columns.add(message, SMALL_ENVELOPE);
  const known = new Map<string, Bitmap>();
  return (chain) => {
    const fresh = atomsOf(chain).filter((atom) => !known.has(atomKey(atom)));
    for (const [key, found] of evaluateAtoms(fresh, columns)) known.set(key, found);
    return runFlow(chain, known, columns.count);
  };
}

/** All small messages under a chain. */
export const smallFlow = flowOver(SMALL_MESSAGES);

/** All odd messages under a chain. */
export const oddFlow = flowOver(ODD_MESSAGES);
