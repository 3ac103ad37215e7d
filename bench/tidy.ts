import { readFileSync } from 'node:fs';
import { Dice } from '../demo/random';
import { auditChain } from '../src/core/audit/catalogue';
import { AuditMemory } from '../src/core/audit/memory';
import { MailGatherer } from '../src/core/audit/stored';
import { evaluateAtoms } from '../src/core/flow/atoms';
import { MemoryColumns } from '../src/core/flow/columns';
import { runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import type { Tidied } from '../src/core/plan/tidy';
import { tidyFor } from '../src/core/plan/tidy-for';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { Chain, ChainEntry, Rule, TestTree } from '../src/core/rules/rule';
import { sieveFromChain } from '../src/core/rules/to-sieve';
import { elementAt } from '../src/core/text/lookup';
import { figure, seconds } from './figures';
import { demoLikeChain } from './made-up';

/** How much of what is superfluous in rules is tidied away. */

const lengthOf = (chain: Chain): number => sieveFromChain(chain, 'export').text.length;

function tidiedWithoutMail(chain: Chain): Tidied {
  const columns = new MemoryColumns();
  const evaluate = (atoms: Parameters<typeof evaluateAtoms>[0]) => evaluateAtoms(atoms, columns);
  const atoms = evaluate(atomsOf(chain));
  const memory = new AuditMemory();
  const mail = new MailGatherer().mail([]);
  const { findings } = auditChain({ chain, flow: runFlow(chain, atoms, 0), atoms, mail }, { memory });
  return tidyFor({ chain, atoms, evaluate, count: 0, findings, knowledge: memory.knowledge, answered: [] });
}

const subject = (key: string): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: [key] },
});
const from = (key: string): TestTree => ({
  kind: 'leaf',
  test: { test: 'address', headers: ['from'], part: 'all', match: 'is', comparator: 'i;ascii-casemap', keys: [key] },
});

/** What people leave behind in their rules over the years; each makes of a rule what replaces it. */
const CLUTTER: readonly ((
  rule: Rule,
  fresh: () => Pick<Rule, 'id' | 'name'>,
) => { here: Rule[]; later: Rule[] } | null)[] = [
  // Typed in again.
  (rule, fresh) => (rule.ending === 'stop' ? { here: [rule], later: [{ ...rule, ...fresh() }] } : null),
  // A special case behind the general one.
  (rule, fresh) => {
    if (rule.ending !== 'stop') return null;
    const tests: TestTree = { kind: 'all', children: [rule.tests, subject('second reminder')] };
    return { here: [rule], later: [{ ...rule, ...fresh(), tests }] };
  },
  // An exception for someone whom the tests leave out anyway.
  (rule) => {
    const { tests } = rule;
    if (tests.kind !== 'leaf' || tests.test.test !== 'address' || tests.test.match !== 'is') return null;
    return { here: [{ ...rule, unless: [...rule.unless, from('long.gone@elsewhere.example')] }], later: [] };
  },
  // Keys that contain another key.
  (rule) => {
    const { tests } = rule;
    if (tests.kind !== 'leaf' || tests.test.test !== 'header' || tests.test.match !== 'contains') return null;
    const more = tests.test.keys.flatMap((key) => [`${key} 2024`, `re: ${key}`, `fwd: ${key} (copy)`]);
    return {
      here: [{ ...rule, tests: { kind: 'leaf', test: { ...tests.test, keys: [...tests.test.keys, ...more] } } }],
      later: [],
    };
  },
  // Nobody can be both.
  (rule, fresh) => {
    const tests: TestTree = { kind: 'all', children: [from('a@one.example'), from('b@two.example'), rule.tests] };
    return { here: [rule], later: [{ ...rule, ...fresh(), tests }] };
  },
  // The same once for each key.
  (rule, fresh) => {
    const { tests } = rule;
    if (tests.kind !== 'leaf' || !('keys' in tests.test) || tests.test.keys.length < 2 || rule.unless.length > 0)
      return null;
    const { test } = tests;
    const each = test.keys.map((key, at): Rule => {
      return {
        ...rule,
        ...(at === 0 ? {} : fresh()),
        tests: { kind: 'leaf', test: { ...test, keys: [key] } as typeof test },
      };
    });
    return { here: each, later: [] };
  },
];

const isUnlinked = (entry: ChainEntry | undefined): boolean => entry?.kind !== 'rule' || entry.link === 'always';

/** A chain with so much more in it, as a share of the whole, that changes nothing. */
function cluttered(base: Chain, share: number): Chain {
  const dice = new Dice(99);
  const length = lengthOf(base);
  const entries = [...base.entries];
  let next = 0;
  const fresh = () => ({ id: `c${++next}`, name: `Clutter ${next}` });
  for (let times = 0; times < 5000; times++) {
    if (times % 10 === 0 && lengthOf({ ...base, entries }) * (1 - share) >= length) break;
    const at = dice.between(0, entries.length - 1);
    const entry = elementAt(entries, at);
    const isAlone = isUnlinked(entry) && isUnlinked(entries[at + 1]);
    const made = entry.kind === 'rule' && entry.on && isAlone ? dice.pick(CLUTTER)(entry, fresh) : null;
    if (!made) continue;
    entries.splice(at, 1, ...made.here);
    for (const one of made.later) {
      const places = entries.flatMap((other, place) =>
        place > at + made.here.length && isUnlinked(other) ? [place] : [],
      );
      entries.splice(places.length === 0 ? entries.length : dice.pick(places), 0, one);
    }
  }
  return { ...base, entries };
}

/** How much longer the entries of a chain are than those of the same names in another. */
function excess(chain: Chain, other: Chain): number {
  const lengths = new Map(other.entries.map((entry) => [entry.name, lengthOf({ entries: [entry], closing: '' })]));
  const longer = (entry: ChainEntry) => lengthOf({ entries: [entry], closing: '' }) - (lengths.get(entry.name) ?? 0);
  return chain.entries.reduce((sum, entry) => sum + Math.max(0, longer(entry)), 0);
}

const percent = (part: number, whole: number): string => `${((100 * part) / whole).toFixed(1)}%`;

export function benchTidy(): void {
  const chainIn = (name: string) =>
    chainFromSieve(readFileSync(new URL(`../demo/${name}.sieve`, import.meta.url), 'utf8')).chain;
  const [meant, had] = [chainIn('intended'), chainIn('rules')];
  const planted = excess(had, meant);
  const gone = excess(had, tidiedWithoutMail(had).chain);
  figure('Tidy on the demo, of the planted clutter', percent(gone, planted), 'a quarter');
  const base = tidiedWithoutMail(demoLikeChain(meant, 510)).chain;
  const chain = cluttered(base, 0.2);
  const whole = lengthOf(chain);
  let after = chain;
  const time = seconds(() => {
    after = tidiedWithoutMail(chain).chain;
  });
  figure(
    `Tidy on ${chain.entries.length} rules of which ${percent(whole - lengthOf(base), whole)} is clutter`,
    `${percent(whole - lengthOf(after), whole)} shorter, ${time.toFixed(1)} s`,
    'of 20 percent, 18',
  );
}
