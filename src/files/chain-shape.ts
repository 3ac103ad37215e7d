import { z } from 'zod';
import { isTooEntangled } from '../core/rules/context';
import { contradictionsIn, SIEVE } from '../core/rules/profile';
import type { Action, Chain, ChainEntry, NamedList, Rule, TestTree, WrittenTest } from '../core/rules/rule';
import { furtherActionShapes, furtherTestShapes, list, words } from './further-shapes';

/** Shapes of chain entries as they come over HTTP or from a file. */
const id = z.string().min(1).max(100);
const capabilities = z
  .array(z.string().max(200, 'the name of a capability is longer than 200 characters'))
  .max(500, 'more than 500 capabilities are required');

const textMatch = {
  match: z.enum(['is', 'contains', 'matches']),
  comparator: z.string().max(100),
  keys: list,
  list: id.optional(),
};
const part = z.enum(['all', 'localpart', 'domain']);

const leafShape: z.ZodType<WrittenTest> = z.discriminatedUnion('test', [
  z.object({ test: z.literal('header'), headers: list, ...textMatch }),
  z.object({ test: z.literal('address'), headers: list, part, ...textMatch }),
  z.object({ test: z.literal('envelope'), parts: z.array(z.enum(['from', 'to'])), part, ...textMatch }),
  z.object({ test: z.literal('exists'), headers: list }),
  z.object({ test: z.literal('size'), relation: z.enum(['over', 'under']), octets: z.int().min(0) }),
  z.object({ test: z.literal('hasflag'), ...textMatch }),
  ...furtherTestShapes,
]);

export const treeShape: z.ZodType<TestTree> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({
      kind: z.enum(['all', 'any', 'none']),
      children: z.array(treeShape).max(100_000, 'more than 100,000 tests are in one group'),
    }),
    z.object({ kind: z.literal('leaf'), test: leafShape }),
  ]),
);

const flags = list.nullable();
const actionShape: z.ZodType<Action> = z.discriminatedUnion('action', [
  z.object({ action: z.literal('keep'), flags }),
  z.object({
    action: z.literal('fileinto'),
    folder: words,
    copy: z.boolean(),
    create: z.literal(true).optional(),
    flags,
  }),
  z.object({ action: z.literal('redirect'), address: words, copy: z.boolean() }),
  z.object({ action: z.literal('discard') }),
  z.object({ action: z.enum(['setflag', 'addflag', 'removeflag']), flags: list }),
  ...furtherActionShapes,
]);

const shared = {
  id,
  name: z.string().min(1).max(10_000, 'a name is longer than 10,000 characters'),
  note: words,
  on: z.boolean(),
};

const ruleFields = {
  kind: z.literal('rule'),
  tests: treeShape,
  unless: z.array(treeShape).max(100_000, 'a rule has more than 100,000 exceptions'),
  actions: z.array(actionShape).max(10_000, 'a rule has more than 10,000 actions'),
  ending: z.enum(['continue', 'stop']),
  link: z.enum(['always', 'otherwise']),
  tags: z.array(z.string().trim().min(1).max(100)).max(50).optional(),
};

/** A rule whose name may be empty. */
export const ruleShape: z.ZodType<Rule> = z.object({ ...shared, name: z.string().max(10_000), ...ruleFields });

export const entryShape: z.ZodType<ChainEntry> = z.discriminatedUnion('kind', [
  z.object({ ...shared, ...ruleFields }),
  z.object({
    kind: z.literal('script'),
    ...shared,
    text: words,
    reason: z.string().max(10_000, 'a reason is longer than 10,000 characters'),
    works: z.boolean(),
    requires: capabilities,
  }),
]);

export const namedListShape: z.ZodType<NamedList> = z.object({
  id,
  name: z.string().trim().min(1, 'the list has no name').max(200),
  keys: list,
});

/** Four times as many rules as the largest chain that is benchmarked. */
export const MOST_RULES = 20_000;
const TOO_MANY = 'there are more than 20,000 rules';

/** Checks only the number of rules. */
export const countFault = ({ entries }: Chain): string | null => (entries.length > MOST_RULES ? TOO_MANY : null);

/**
 * The limit that a chain exceeds, naming the rule; null if it keeps to all. Imports, edits and opened audits share the
 * limits, so that whatever was imported can be exported and opened again.
 */
export function limitFault(chain: Chain): string | null {
  const many = countFault(chain);
  if (many !== null) return many;
  const found = chainShape.safeParse(JSON.parse(JSON.stringify(chain)));
  const issue = found.error?.issues[0];
  if (!issue) return entanglementFault(chain);
  const [top, place] = issue.path;
  const name = top === 'entries' && typeof place === 'number' ? chain.entries[place]?.name : undefined;
  return name === undefined ? issue.message : `in “${name.slice(0, 80)}” ${issue.message}`;
}

/**
 * Most characters of state that entries pass on to each other: some 500 entries that each test what all earlier ones
 * have set.
 */
const MOST_HANDED_ON = 16 * 1024 * 1024;

/** Checks only how much entries depend on earlier ones. */
export const entanglementFault = (chain: Chain): string | null =>
  isTooEntangled(chain, MOST_HANDED_ON) ? 'too many rules test variables, flags or fields that others set' : null;

/** A profile; what is not said is as in Sieve. */
export const profileShape = z
  .object({
    order: z.enum(['listed', 'none']).default(SIEVE.order),
    ending: z.enum(['rule', 'first', 'all']).default(SIEVE.ending),
    places: z.enum(['several', 'first', 'last']).default(SIEVE.places),
    inbox: z.enum(['rest', 'place']).default(SIEVE.inbox),
    delete: z.enum(['bin', 'end']).default(SIEVE.delete),
    bin: z.string().max(500).default(SIEVE.bin),
    deleteWins: z.boolean().default(SIEVE.deleteWins),
  })
  .superRefine((profile, context) => {
    for (const message of contradictionsIn(profile)) context.addIssue({ code: 'custom', message });
  });

export const chainShape: z.ZodType<Chain> = z
  .object({
    entries: z.array(entryShape).max(MOST_RULES, TOO_MANY),
    closing: z.string().default(''),
    lists: z.array(namedListShape).max(10_000).optional(),
    profile: profileShape.optional(),
  })
  .refine(
    ({ entries }) => new Set(entries.map((entry) => entry.id)).size === entries.length,
    'two rules have the same id',
  );
