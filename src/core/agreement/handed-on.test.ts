import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { chainAsDocument, chainFromDocument } from '../../files/chain-document';
import { auditChain } from '../audit/catalogue';
import { MailGatherer } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { traceMessage } from '../flow/trace';
import { envelopeOf, readMessage } from '../mail/message';
import { asWritten, inContext } from '../rules/context';
import { chainFromSieve } from '../rules/from-sieve';
import { joinChains } from '../rules/lists';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { elementAt } from '../text/lookup';

/**
 * Chains whose entries pass on edited headers, variables and flags, from one script and from several that run one after
 * another: the flow engine, which runs each entry alone, compared with the interpreter, which runs all.
 */

const NEEDED = 'require ["fileinto", "editheader", "variables", "imap4flags", "regex"];\n';

const name = fc.constantFrom('X-A', 'X-B', 'Subject');
const word = fc.constantFrom('oak', 'lime', 'weir');
const key = fc.constantFrom('oak', 'lime', 'weir', '*');
const folder = fc.constantFrom('A', 'B', 'C');

const leaf = fc.oneof(
  fc.tuple(name, key).map(([field, value]) => `header :matches "${field}" "*${value}*"`),
  fc.tuple(name, word).map(([field, value]) => `header :is "${field}" "${value}"`),
  name.map((field) => `exists "${field}"`),
  fc.constantFrom('hasflag "x"', 'hasflag ["x", "y"]', 'header :regex "Subject" "(oak|lime).*"'),
  word.map((value) => `string :contains "\${seen}" "${value}"`),
  fc.tuple(word).map(([value]) => `not header :contains "From" "${value}"`),
  fc.constant('true'),
);
const condition = fc.oneof(
  { weight: 3, arbitrary: leaf },
  fc.tuple(fc.constantFrom('anyof', 'allof'), leaf, leaf).map(([kind, a, b]) => `${kind} (${a}, ${b})`),
);
const action = fc.oneof(
  folder.map((one) => `fileinto "${one}";`),
  folder.map((one) => `fileinto "${one}\${seen}";`),
  fc.constantFrom('fileinto "${1}x";', 'addflag "x";', 'removeflag "x";', 'setflag "y";', 'discard;', 'keep;', 'stop;'),
  fc.tuple(name, word).map(([field, value]) => `addheader "${field}" "${value}";`),
  name.map((field) => `deleteheader "${field}";`),
  word.map((value) => `set "seen" "${value}";`),
  fc.constantFrom('set "seen" "${1}";', 'addheader "X-B" "${seen}";'),
);
const block = fc.array(action, { minLength: 1, maxLength: 2 }).map((actions) => {
  // Nothing may follow a stop that a reader would miss.
  const at = actions.indexOf('stop;');
  return `{ ${(at < 0 ? actions : actions.slice(0, at + 1)).join(' ')} }`;
});
const statement = fc.oneof(
  { weight: 3, arbitrary: fc.tuple(condition, block).map(([test, body]) => `if ${test} ${body}`) },
  fc.tuple(condition, block, condition, block).map(([a, x, b, y]) => `if ${a} ${x} elsif ${b} ${y}`),
  fc.tuple(condition, block, block).map(([a, x, y]) => `if ${a} ${x} else ${y}`),
  action.filter((one) => one !== 'stop;'),
);
const script = fc.array(statement, { minLength: 1, maxLength: 5 }).map((all) => all.join('\n'));

const MESSAGES = ['oak', 'lime', 'weir', 'oak weir', ''].flatMap((subject) =>
  ['', 'X-A: oak\n', 'X-A: lime\nX-B: weir\n'].map((more) =>
    readMessage(
      new TextEncoder().encode(`From: oak@x.example\nTo: me@x.example\nSubject: ${subject}\n${more}\nwords\n`),
    ),
  ),
);
const envelope = { from: null, to: null };

const MAIL = new MailGatherer();
for (const message of MESSAGES) MAIL.add({ folder: null, flags: [], message });

function flowOf(chain: Chain) {
  const columns = new MemoryColumns();
  for (const message of MESSAGES) columns.add(message, envelope);
  const atoms = evaluateAtoms(atomsOf(chain), columns);
  return { atoms, flow: runFlow(chain, atoms, columns.count) };
}

const fatesBy = (source: string): string[] => {
  const tree = parse(source).script;
  const run = interpreter(tree);
  return MESSAGES.map((message) => fateKey(run(message, envelopeOf(message, null)).fate));
};

const fatesOf = (chain: Chain): string[] => {
  const { flow } = flowOf(chain);
  return MESSAGES.map((_, at) => fateKey(flow.fates.fateOf(at)));
};

const chainOf = (scripts: readonly string[]): Chain =>
  scripts
    .map((source) => chainFromSieve(NEEDED + source).chain)
    .reduce(joinChains, { entries: [], closing: '' } satisfies Chain);

describe('what entries hand on to later ones', () => {
  test('several scripts do what their texts would do as one, in both engines, as JSON, and exported', () => {
    let contexts = 0;
    fc.assert(
      fc.property(fc.array(script, { minLength: 1, maxLength: 3 }), (scripts) => {
        const whole = NEEDED + scripts.join('\n');
        expect(check(parse(whole).script)).toEqual([]);
        const expected = fatesBy(whole);
        const chain = chainOf(scripts);
        if (inContext(chain) !== chain) contexts++;
        expect(fatesOf(chain)).toEqual(expected);
        const { text } = sieveFromChain(chain);
        expect(fatesBy(text)).toEqual(expected);
        expect(fatesOf(chainFromSieve(text).chain)).toEqual(expected);
        const document = chainFromDocument(JSON.parse(chainAsDocument(chain)));
        expect(document.ok && fatesOf(document.chain)).toEqual(expected);
        MESSAGES.forEach((message, at) => {
          expect(fateKey(traceMessage(chain, message, envelope).fate)).toBe(expected[at]);
        });
      }),
      { numRuns: Number(process.env.RUNS ?? 600) },
    );
    expect(contexts).toBeGreaterThan(200);
  });

  test('entries can be left out one by one, and moved', () => {
    fc.assert(
      fc.property(fc.array(script, { minLength: 1, maxLength: 2 }), fc.nat(), (scripts, pick) => {
        const chain = chainOf(scripts);
        const at = pick % chain.entries.length;
        const off: Chain = {
          ...chain,
          entries: chain.entries.with(at, { ...elementAt(chain.entries, at), on: false }),
        };
        expect(fatesOf(off)).toEqual(fatesBy(sieveFromChain(off).text));
        const [moved, ...others] = [elementAt(chain.entries, at), ...chain.entries.toSpliced(at, 1)];
        const first = moved.kind === 'rule' ? { ...moved, link: 'always' as const } : moved;
        const turned: Chain = { ...chain, entries: [first, ...others] };
        expect(fatesOf(turned)).toEqual(fatesBy(sieveFromChain(turned).text));
      }),
      { numRuns: Number(process.env.RUNS ?? 300) },
    );
  });

  test('rules that look at edited headers have findings, which speak of the rules as they are written', () => {
    fc.assert(
      fc.property(script, (source) => {
        const chain = chainOf([source]);
        const { flow, atoms } = flowOf(chain);
        const { findings } = auditChain({ chain, flow, atoms, mail: MAIL.mail([]) });
        for (const { repairs } of findings) expect(JSON.stringify(repairs)).not.toContain('"meant"');
        for (const { repairs } of findings) expect(asWritten(repairs)).toBe(repairs);
        // What is proved for any message is true for these.
        for (const { kind, certainty, rules } of findings) {
          if (certainty !== 'proved' || !/^(contradiction|shadowed)$/.test(kind)) continue;
          const found = flow.entries.find(({ entry }) => entry.id === rules[0]);
          expect(found?.fired.isEmpty()).toBe(true);
        }
      }),
      { numRuns: 150 },
    );
  });

  test('only rules that can see an edited header need the interpreter', () => {
    const chain = chainOf([
      '# Practice\naddheader "X-Practice" "yes";\n# Oak\nif header :contains "Subject" "oak" { fileinto "Oak"; }\n# Seen\nif header :is "X-Practice" "yes" { fileinto "Seen"; }',
    ]);
    expect(chain.entries.map(({ name: called, kind }) => [called, kind])).toEqual([
      ['Practice', 'script'],
      ['Oak', 'rule'],
      ['Seen', 'rule'],
    ]);
    const opaque = atomsOf(chain).filter((atom) => 'before' in atom);
    expect(opaque).toHaveLength(1);
    expect(flowOf(chain).flow.entries.map(({ fired }) => fired.count())).toEqual([15, 6, 15]);
    const without: Chain = {
      ...chain,
      entries: chain.entries.map((entry, at) => (at === 0 ? { ...entry, on: false } : entry)),
    };
    expect(flowOf(without).flow.entries.map(({ fired }) => fired.count())).toEqual([0, 6, 0]);
  });
});
