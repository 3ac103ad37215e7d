import fc from 'fast-check';
import { expect, test } from 'vitest';
import { ruleAt, thrownAs } from '../../../test/given';
import { addFile, audit, body, FROM, goTo, id, runner, store, withAudit, work } from '../../../test/harness';
import { ruleChain } from '../../core/agreement/arbitrary-rules';
import type { Chain, Rule, TestTree } from '../../core/rules/rule';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { chainAsDocument } from '../../files/chain-document';
import { makeChange } from '../changes/changes';
import { keepVersion } from '../changes/versions';
import { importArchive } from '../gather/import-file';
import { editShape } from '../http/shapes';
import { maybeRaw } from '../mail/raw';
import { archiveOf, archiveText } from './archive';
import { createAudit, getAudit } from './audits';

withAudit();

/** Part of a rule at its limit, or one above it. */
interface Stretch {
  readonly what: string;
  readonly over: boolean;
  readonly stretch: (rule: Rule) => Rule;
}

const leaf = (...keys: string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['Subject'], match: 'contains', comparator: 'i;ascii-casemap', keys },
});
const times = <T>(count: number, make: (at: number) => T): T[] => Array.from({ length: count }, (_, at) => make(at));
/** Trees nested this deep, built so that the parser cannot flatten them. */
function nested(levels: number): TestTree {
  let tree: TestTree = leaf('core');
  for (let at = 1; at < levels; at++) {
    tree = { kind: at % 2 === 0 ? 'all' : 'any', children: [leaf(`level ${at}`), tree] };
  }
  return tree;
}

const LIMITS: readonly [what: string, most: number, stretch: (rule: Rule, size: number) => Rule][] = [
  ['name', 10_000, (rule, size) => ({ ...rule, name: 'n'.repeat(size) })],
  ['keys', 100_000, (rule, size) => ({ ...rule, tests: leaf(...times(size, (at) => `k${at}`)) })],
  ['key', 4 * 1024 * 1024, (rule, size) => ({ ...rule, tests: leaf('k'.repeat(size)) })],
  [
    'actions',
    10_000,
    (rule, size) => ({
      ...rule,
      actions: times(size, (at) => ({ action: 'fileinto', folder: `F/${at}`, copy: true, flags: null }) as const),
    }),
  ],
  [
    'folder',
    4 * 1024 * 1024,
    (rule, size) => ({
      ...rule,
      actions: [{ action: 'fileinto', folder: 'f'.repeat(size), copy: false, flags: null }],
    }),
  ],
  ['depth', 60, (rule, size) => ({ ...rule, tests: nested(size) })],
];

const stretch = (over: boolean): fc.Arbitrary<Stretch> =>
  fc
    .constantFrom(...LIMITS)
    .map(([what, most, apply]) => ({ what, over, stretch: (rule) => apply(rule, over ? most + 10 : most) }));

/** With one or two parts at their limit, the first of them beyond it or not. */
const plan = (over: boolean) =>
  fc.record({
    chain: ruleChain,
    stretches: fc
      .tuple(stretch(over), fc.option(stretch(false), { nil: undefined }))
      .map((both) => both.filter((one) => one !== undefined)),
    road: fc.constantFrom('script' as const, 'document' as const, 'edit' as const),
  });

function stretched(chain: Chain, stretches: readonly Stretch[]): Chain {
  const entries = chain.entries.map((entry, at) => {
    const own = stretches[at];
    return own && entry.kind === 'rule' ? own.stretch({ ...entry, on: true }) : entry;
  });
  return { ...chain, entries };
}

/** Imports a chain; returns null if it is refused, with the message. */
async function bringIn(chain: Chain, road: 'script' | 'document' | 'edit'): Promise<string | null> {
  try {
    if (road === 'script') await addFile('rules.sieve', sieveFromChain(chain).text);
    else if (road === 'document') await addFile('rules.json', chainAsDocument(chain));
    else {
      const closing = { before: audit().draft.closing, after: chain.closing };
      const entries = chain.entries.map((entry) => ({ ...entry, id: `new${entry.id}` }));
      const edit = {
        kind: 'rewrite',
        from: audit().draft.entries.length,
        before: [],
        after: entries,
        closing,
      } as const;
      const read = editShape.safeParse(JSON.parse(JSON.stringify(edit)));
      if (!read.success) return read.error.issues[0]?.message ?? '';
      makeChange(store, id, [read.data], 'at the limits');
    }
    return null;
  } catch (error) {
    return thrownAs(Error, error).message;
  }
}

test.each([
  ['at the limits are downloaded and opened again as the same', false],
  ['beyond a limit are refused, the limit is named, and nothing is stored', true],
])('audits %s', { timeout: 600_000 }, async (_, over) => {
  await fc.assert(
    fc.asyncProperty(plan(over), async ({ chain, stretches, road }) => {
      goTo(createAudit(store, 'at the limits'));
      await addFile('before.sieve', '# Before\nif header :contains "subject" "x" { stop; }\n');
      await addFile('INBOX.mbox', `${FROM}\nSubject: oak\n\nwords\n\n`);
      await work();
      const before = JSON.stringify(archiveOf(store, id));
      const wanted = stretched(chain, stretches);
      const touched = stretches.slice(0, chain.entries.length);
      const said = await bringIn(wanted, road);
      // A script that is nested too deep is kept word for word.
      const beyond = touched.some(({ over, what }) => over && !(what === 'depth' && road === 'script'));
      const isLarge = road === 'script' && Buffer.byteLength(sieveFromChain(wanted).text) > 4 * 1024 * 1024;
      if (beyond || isLarge) {
        expect([said, touched.map(({ what }) => what)]).not.toContain(null);
        expect(said).toMatch(/more than|longer than|too large|deep|levels|limit/);
        expect(JSON.stringify(archiveOf(store, id))).toBe(before);
        return;
      }
      expect(said).toBeNull();
      keepVersion(store, id, 'as it is');
      const archive = archiveOf(store, id);
      const opened = await importArchive(store, runner, body(...archiveText(store, id, true)));
      await work();
      expect(archiveOf(store, opened)).toEqual(archive);
      expect(getAudit(store, opened).draft).toEqual(audit().draft);
    }),
    { numRuns: 13 },
  );
});

test('an audit holds no more than can be opened again: what would be too much is refused, and nothing is lost', async () => {
  await addFile(
    'rules.sieve',
    `# Large\nif header :contains "subject" "${'k'.repeat(3 * 1024 * 1024)}" { discard; }\n`,
  );
  let kept = 0;
  const keep = () => {
    for (; ; kept++) keepVersion(store, id, `version ${kept}`);
  };
  expect(keep).toThrow('56 MB without its mail');
  expect(kept).toBeGreaterThan(10);
  expect(() => makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], '')).not.toThrow();
  const archive = archiveOf(store, id);
  expect(archive.versions).toHaveLength(kept);
  const opened = await importArchive(store, runner, body(...archiveText(store, id, true)));
  expect(archiveOf(store, opened)).toEqual(archive);
});

test('rules that are joined beyond a limit stay apart', async () => {
  const rule = (name: string) =>
    `# ${name}\nif header :contains "subject" [${times(60_000, (at) => `"${name}${at}"`).join()}] { discard; }\n`;
  await addFile('rules.sieve', rule('a') + rule('b'));
  const [a, b] = [ruleAt(audit().draft.entries, 0), ruleAt(audit().draft.entries, 1)];
  const both = leaf(
    ...[a, b].flatMap(({ tests }) => (tests.kind === 'leaf' && 'keys' in tests.test ? tests.test.keys : [])),
  );
  const closing = { before: '', after: '' };
  const edit = { kind: 'rewrite', from: 0, before: [a, b], after: [{ ...a, tests: both }], closing } as const;
  expect(() => makeChange(store, id, [edit], '')).toThrow('more than 100,000 items');
  expect(audit().draft.entries).toHaveLength(2);
});

test('scripts of which each looks at what all before it have set are taken in up to a limit, one by one or together', async () => {
  const script = (count: number, name: string) => {
    const command = (at: number) =>
      `if allof (string "\${done}" "", header "subject" "${name}${at}") { set "done" "y"; fileinto "F"; }\n`;
    return `require ["variables", "fileinto"];\n${times(count, command).join('')}`;
  };
  await expect(addFile('large.sieve', script(1200, 'k'))).rejects.toThrow('too many rules test variables');
  await addFile('first.sieve', script(400, 'a'));
  await expect(addFile('second.sieve', script(400, 'b'))).rejects.toThrow('too many rules test variables');
  expect(audit().draft.entries).toHaveLength(400);
  await work();
});

test('mail is the same to the octet', async () => {
  await addFile('INBOX.mbox', `${FROM}\nSubject: oak\n\nwords\n\n${FROM}\nSubject: \u00ff\n\n\u0000 x\n\n`);
  await work();
  const [home, octets] = [id, [0, 1].map((number) => maybeRaw(store, id, number))];
  const opened = await importArchive(store, runner, body(...archiveText(store, home, true)));
  goTo(opened);
  await work();
  expect([0, 1].map((number) => maybeRaw(store, opened, number))).toEqual(octets);
});
