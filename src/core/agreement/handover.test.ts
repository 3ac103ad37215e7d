import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { inFolders } from '../handover/folder-names';
import { prepareScript } from '../handover/prepare';
import { type Choices, DEFAULT_CHOICES, rewriteFor } from '../handover/rewrite';
import { beyondLimits } from '../handover/rewriting/limits';
import { expandedRegex } from '../handover/rewriting/regex-forms';
import { EVERYTHING, READY_TARGETS, type Target } from '../handover/target';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { compilePattern, patternHolds } from '../sieve/match/pattern';
import { compileRegex } from '../sieve/match/regex';
import { parse } from '../sieve/parse';
import { elementAt } from '../text/lookup';
import { fullScriptText, messageText, scriptText } from './arbitrary';
import { ruleChain } from './arbitrary-rules';

/**
 * Chains rewritten for every target: the script needs nothing else, has only declared differences, and reads back as
 * written.
 */

const octets = (text: string) => new TextEncoder().encode(text);
const ME = 'ann@mill.example';

function flowOf(chain: Chain, messages: readonly string[]): Flow {
  const columns = new MemoryColumns();
  for (const text of messages) {
    const message = readMessage(octets(text));
    columns.add(message, envelopeOf(message, ME));
  }
  return runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
}

const choices: fc.Arbitrary<Choices> = fc.record({
  refused: fc.constantFrom('dropped' as const, 'kept' as const),
  off: fc.constantFrom('left out' as const, 'as comments' as const),
  unsayable: fc.constantFrom(
    {},
    ...(['as a comment', 'without'] as const).map((way) => ({ r1: way, r2: way, r3: way })),
  ),
  lists: fc.constant({}),
  // Names stay apart: no folder of the rules begins with this prefix or has a dot.
  folders: fc.record({
    prefix: fc.constantFrom('', 'INBOX.', 'Mail/'),
    separator: fc.constantFrom('' as const, '/' as const, '.' as const),
    renamed: fc.constantFrom<Readonly<Record<string, string>>[]>({}, { Oak: 'Trees of the mill' }),
    there: fc.constant([]),
  }),
});

/** Returns the number of messages whose fate differs, all of them declared. */
function handedOver(chain: Chain, target: Target, chosen: Choices, messages: readonly string[]): number {
  const { text, chain: said, exact, costs, requires, names } = prepareScript(chain, target, chosen);
  const { script, diagnostics } = parse(text);
  expect([...diagnostics, ...check(script)].map(({ code }) => ({ code, text }))).toEqual([]);
  expect(beyondLimits(script.commands, target.limits)).toBe(null);
  expect(requires.filter((name) => !target.capabilities.includes(name))).toEqual([]);

  const [byRules, bySaid, byExact] = [flowOf(chain, messages), flowOf(said, messages), flowOf(exact, messages)];
  expect([...byExact.fates.differsFrom(byRules.fates).members()]).toEqual([]);
  const run = interpreter(script);
  messages.forEach((letter, index) => {
    const message = readMessage(octets(letter));
    const { fate } = run(message, envelopeOf(message, ME));
    expect(fateKey(names.ofFate(fate))).toBe(fateKey(bySaid.fates.fateOf(index)));
  });
  // If the fate of a message differs, a rule with a difference has acted, or would have.
  const ids = new Set(costs.map(({ id }) => id));
  const concerned = [...byRules.entries, ...bySaid.entries]
    .filter(({ entry }) => ids.has(entry.id))
    .reduce((all, { fired }) => all.or(fired), new Bitmap(messages.length));
  const changed = bySaid.fates.differsFrom(byRules.fates);
  expect([...changed.without(concerned).members()]).toEqual([]);

  const back = inFolders(chainFromSieve(text).chain, names.of);
  const written = said.entries.filter(({ on, kind }) => on && kind === 'rule');
  const rules = back.entries.filter(({ kind }) => kind === 'rule');
  if (!said.entries.some(({ kind, on }) => kind === 'script' && on)) {
    expect(rules.map(({ name }) => name)).toEqual(written.map(({ name }) => name));
    const again = flowOf(back, messages);
    expect([...again.fates.differsFrom(bySaid.fates).members()]).toEqual([]);
  }
  return changed.count();
}

const letters = fc.array(messageText, { minLength: 6, maxLength: 20 });

describe.each(READY_TARGETS)('said to $id', (target) => {
  test('rules of all kinds', { timeout: 120_000 }, () => {
    let changed = 0;
    fc.assert(
      fc.property(ruleChain, choices, letters, (chain, chosen, messages) => {
        changed += handedOver(chain, target, chosen, messages);
      }),
      { numRuns: 150 },
    );
    if (target.id === 'everything') expect(changed).toBe(0);
    else expect(changed).toBeGreaterThan(0);
  });
  test('rules and script blocks as scripts have them', { timeout: 120_000 }, () => {
    fc.assert(
      fc.property(scriptText, choices, letters, (source, chosen, messages) => {
        handedOver(chainFromSieve(source).chain, target, chosen, messages);
      }),
      { numRuns: 120 },
    );
  });
});

const anyServer: fc.Arbitrary<Target> = fc
  .tuple(
    fc.subarray([...EVERYTHING.capabilities]),
    fc.record({
      strings: fc.constantFrom(null, 1, 2),
      octets: fc.constant(null),
      redirects: fc.constantFrom(null, 1),
      nesting: fc.constantFrom(null, 1, 2, 15),
    }),
  )
  .map(([capabilities, limits]) => ({ id: 'own', capabilities, limits }));

const anyChain = fc.oneof(
  fullScriptText.map((source) => chainFromSieve(source).chain),
  ruleChain,
);

test('scripts that use all of the language, and rules of all kinds, said to servers that have any part of it', {
  timeout: 300_000,
}, () => {
  fc.assert(
    fc.property(anyChain, anyServer, choices, letters, (chain, target, chosen, messages) => {
      handedOver(chain, target, chosen, messages);
    }),
    { numRuns: Number(process.env.RUNS ?? 300) },
  );
});

const atom = fc.constantFrom('a', 'b', '.', '.*', '.+', '(a|b)', '(ab|)', 'a?', '[ab]', '\\.', 'b.a', '\\*');
const expression = fc
  .tuple(
    fc.constantFrom('', '^'),
    fc.array(fc.oneof(atom, fc.constant('|')), { minLength: 1, maxLength: 6 }),
    fc.constantFrom('', '$'),
  )
  .map(([start, parts, end]) => start + parts.join('') + end);

test('an expression said as forms holds for the same texts', () => {
  let said = 0;
  fc.assert(
    fc.property(
      expression,
      fc.array(fc.string({ unit: fc.constantFrom('a', 'b', '.', '*', 'A'), maxLength: 6 })),
      (source, texts) => {
        const forms = expandedRegex(source);
        if (forms === null) return;
        said++;
        const regex = compileRegex(source, 'none');
        const patterns = forms.map(compilePattern);
        for (const text of texts) {
          expect(`${source} ${text} ${patterns.some((pattern) => patternHolds(pattern, text))}`).toBe(
            `${source} ${text} ${regex.match(text) !== null}`,
          );
        }
      },
    ),
    { numRuns: 3000 },
  );
  expect(said).toBeGreaterThan(1000);
});

test('rules without script are said to the core with nothing but what the core has', () => {
  const { chain } = chainFromSieve(
    'require ["fileinto", "copy", "imap4flags"];\n# A\nif header :contains "subject" "a" { addflag "x"; fileinto :copy "A"; stop; }\n',
  );
  const { chain: said, costs } = rewriteFor(chain, elementAt(READY_TARGETS, 0), DEFAULT_CHOICES);
  expect(sieveFromChain(said).text).toBe('# A\nif header :contains "subject" "a" {\n    stop;\n}\n');
  expect(costs.map(({ without }) => without)).toEqual(['imap4flags', 'fileinto']);
});
