import { z } from 'zod';
import type { Action, Chain, ChainEntry, LeafTest, NamedList, Rule, TestTree } from '../core/rules/rule';

/** Entries of a chain as they may come over the wire, or in a file. */
const id = z.string().min(1).max(100);
const words = z.string().max(4 * 1024 * 1024);
const list = z.array(words).max(100_000);
const capabilities = z.array(z.string().max(200)).max(100);

const textMatch = {
  match: z.enum(['is', 'contains', 'matches']),
  comparator: z.string().max(100),
  keys: list,
  list: id.optional(),
};
const part = z.enum(['all', 'localpart', 'domain']);

const leafShape: z.ZodType<LeafTest> = z.discriminatedUnion('test', [
  z.object({ test: z.literal('header'), headers: list, ...textMatch }),
  z.object({ test: z.literal('address'), headers: list, part, ...textMatch }),
  z.object({ test: z.literal('envelope'), parts: z.array(z.enum(['from', 'to'])), part, ...textMatch }),
  z.object({ test: z.literal('exists'), headers: list }),
  z.object({ test: z.literal('size'), relation: z.enum(['over', 'under']), octets: z.int().min(0) }),
  z.object({ test: z.literal('hasflag'), ...textMatch }),
  z.object({ test: z.literal('sieve'), text: words }),
]);

export const treeShape: z.ZodType<TestTree> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({ kind: z.enum(['all', 'any', 'none']), children: z.array(treeShape).max(100_000) }),
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
  z.object({ action: z.literal('sieve'), name: z.string().max(100), text: words }),
]);

const shared = { id, name: z.string().min(1).max(10_000), note: words, on: z.boolean() };

const ruleFields = {
  kind: z.literal('rule'),
  tests: treeShape,
  unless: z.array(treeShape).max(100_000),
  actions: z.array(actionShape).max(10_000),
  ending: z.enum(['continue', 'stop']),
  link: z.enum(['always', 'otherwise']),
  tags: z.array(z.string().trim().min(1).max(100)).max(50).optional(),
};

/** A rule whose name may still be missing. */
export const ruleShape: z.ZodType<Rule> = z.object({ ...shared, name: z.string().max(10_000), ...ruleFields });

export const entryShape: z.ZodType<ChainEntry> = z.discriminatedUnion('kind', [
  z.object({ ...shared, ...ruleFields }),
  z.object({
    kind: z.literal('script'),
    ...shared,
    text: words,
    reason: z.string().max(10_000),
    works: z.boolean(),
    requires: capabilities,
  }),
]);

export const namedListShape: z.ZodType<NamedList> = z.object({
  id,
  name: z.string().trim().min(1, 'the list has no name').max(200),
  keys: list,
});

export const chainShape: z.ZodType<Chain> = z
  .object({
    entries: z.array(entryShape).max(100_000),
    closing: z.string().default(''),
    lists: z.array(namedListShape).max(10_000).optional(),
  })
  .refine(
    ({ entries }) => new Set(entries.map((entry) => entry.id)).size === entries.length,
    'two rules have the same id',
  );
