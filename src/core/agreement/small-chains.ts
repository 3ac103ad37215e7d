import fc from 'fast-check';
import { atomKey, evaluateAtoms } from '../flow/atoms';
import type { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { type MailMessage, readMessage } from '../mail/message';
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

/** The envelope of small messages. */
export const SMALL_ENVELOPE = { from: 'a@b', to: 'b@a' };

const columns = new MemoryColumns();
for (const message of SMALL_MESSAGES) columns.add(message, SMALL_ENVELOPE);
const known = new Map<string, Bitmap>();

/** All small messages under a chain. There are few tests, and each is evaluated once. */
export function smallFlow(chain: Chain): Flow {
  const fresh = atomsOf(chain).filter((atom) => !known.has(atomKey(atom)));
  for (const [key, found] of evaluateAtoms(fresh, columns)) known.set(key, found);
  return runFlow(chain, known, columns.count);
}
